import type { ControlId } from '@sure-hand/core/song';
import type { HandSession } from './handSession.js';

/** Values held aside, by control, and whether what a hand touches is held aside too. */
export type KeptAside = { readonly isOn: boolean; readonly values: { readonly [id: ControlId]: number } };

/** What a person does with a tryout: on and off, putting controls back on their curves, hearing before and after. */
export class TryingOut {
  /** What was put back last, to be held aside again. */
  #dropped: KeptAside['values'] = {};

  constructor(readonly session: HandSession) {}

  get #tryout() {
    return this.session.recorder.tryout;
  }

  /** Everything held aside, as it can be kept. */
  get kept(): KeptAside {
    const { isOn, held } = this.#tryout;
    return { isOn, values: Object.fromEntries(held) };
  }

  set(on: boolean): void {
    this.session.act({ do: 'tryout', on }, performance.now());
  }

  toggle(): void {
    this.set(!this.#tryout.isOn);
  }

  /** Holds controls aside at values, as hands would. */
  hold(values: KeptAside['values']): void {
    if (Object.keys(values).length) this.session.act({ do: 'aside', values }, performance.now());
  }

  /** Puts controls back on their curves, all of them where none are named; which were. */
  drop(ids: readonly ControlId[] = [...this.#tryout.held.keys()]): readonly ControlId[] {
    const held = ids.filter((id) => this.#tryout.held.has(id));
    if (!held.length) return [];
    this.#dropped = Object.fromEntries(held.map((id) => [id, this.#tryout.held.get(id)!]));
    this.session.act({ do: 'drop', controls: held }, performance.now());
    return held;
  }

  /** Holds aside again what was put back last; which controls. */
  holdAgain(): readonly ControlId[] {
    const ids = Object.keys(this.#dropped);
    this.hold(this.#dropped);
    this.#dropped = {};
    return ids;
  }

  /** Lets the curves be heard in place of what is held aside, or that again. False where nothing is held. */
  hearOther(): boolean {
    if (!this.#tryout.held.size) return false;
    this.session.act({ do: 'before', on: !this.#tryout.isBefore }, performance.now());
    return true;
  }
}
