import type { ControlId } from '../song/index.js';

/** A tryout as it was at a moment: see {@link Tryout.mark}. */
export type TryoutMark = {
  readonly isOn: boolean;
  readonly isBefore: boolean;
  readonly held: readonly (readonly [ControlId, number])[];
};

/**
 * What is held aside: base values of controls that are heard in place of their curves, across stops and laps, and written
 * nowhere, until they are placed or dropped (rules, 6). While it is on, whatever a hand touches is held aside.
 */
export class Tryout {
  isOn = false;
  /** The curves are heard, as if nothing were held aside: before, to be compared with after. */
  isBefore = false;
  readonly held = new Map<ControlId, number>();

  /** Whether a hand on a control holds it aside. */
  takes(id: ControlId): boolean {
    return this.isOn || this.held.has(id);
  }

  /** Holds a control aside at a value of its base. */
  hold(id: ControlId, value: number): void {
    this.held.set(id, value);
  }

  /** Puts controls back on their curves; those that were held. */
  drop(ids: Iterable<ControlId>): ControlId[] {
    const dropped = [...ids].filter((id) => this.held.delete(id));
    if (!this.held.size) this.isBefore = false;
    return dropped;
  }

  mark(): TryoutMark {
    return { isOn: this.isOn, isBefore: this.isBefore, held: [...this.held] };
  }

  /** Forgets all that came since a mark. */
  back({ isOn, isBefore, held }: TryoutMark): void {
    this.isOn = isOn;
    this.isBefore = isBefore;
    this.held.clear();
    for (const [id, value] of held) this.held.set(id, value);
  }
}
