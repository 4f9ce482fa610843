import type { ControlId, Refusal } from '../song/index.js';
import type { Seconds } from '../units/index.js';
import { Finger } from './finger.js';
import type { StoppedHands } from './roll.js';
import { Tryout, type TryoutMark } from './tryout.js';

/** Hands as they were at a moment: see {@link HeldHands.mark}. */
export type HandsMark = {
  readonly fingers: readonly (readonly [ControlId, Finger])[];
  readonly poised: readonly (readonly [ControlId, number])[];
  readonly stopped: StoppedHands;
  readonly tryout: TryoutMark;
  readonly recalled: readonly ControlId[];
};

type Stopped = { refused: Refusal[]; rested: Set<ControlId>; gone: Set<ControlId> };
const copyOf = ({ refused, rested, gone }: StoppedHands): Stopped => ({
  refused: [...refused],
  rested: new Set(rested),
  gone: new Set(gone),
});

/** What hands have at the moment: fingers that are down, values that are poised, what they did while the song stood. */
export class HeldHands {
  readonly fingers = new Map<ControlId, Finger>();
  readonly poised = new Map<ControlId, number>();
  readonly tryout = new Tryout();
  /** Controls whose poised value, or open span, came from a snapshot: their modes do not count. */
  readonly recalled = new Set<ControlId>();
  /** What stopped hands did, for the next pass's receipt. */
  stopped: Stopped = { refused: [], rested: new Set(), gone: new Set() };

  /** Controls with a finger on them. */
  get touched(): readonly ControlId[] {
    return [...this.fingers].filter(([, finger]) => !finger.letGo).map(([id]) => id);
  }

  /** What stopped hands did, for the pass that begins: it is told there, and no more. */
  takeStopped(): StoppedHands {
    const { stopped } = this;
    this.stopped = { refused: [], rested: new Set(), gone: new Set() };
    return stopped;
  }

  /** Fingers that no sensor tells of are let go of as a pass ends. */
  releaseSensorless(): void {
    for (const [id, finger] of this.fingers)
      if (finger.releaseAt !== null) {
        this.fingers.delete(id);
        for (const [led, other] of this.fingers) if (other.led?.by === id) this.#backBeneath(led, other);
      }
  }

  #backBeneath(id: ControlId, { beneath }: Finger): void {
    if (beneath) this.fingers.set(id, beneath);
    else this.fingers.delete(id);
  }

  /** What is to be let go of by itself is so after as long as before, counted on from a loop's start. */
  shiftReleases(by: Seconds): void {
    for (const finger of this.fingers.values()) if (finger.releaseAt !== null) finger.releaseAt += by;
  }

  /** Controls that have gone leave the hands that had them. */
  forget(isGone: (id: ControlId) => boolean): void {
    for (const ids of [this.fingers, this.poised, this.tryout.held, this.recalled])
      for (const id of ids.keys()) if (isGone(id)) ids.delete(id);
    this.stopped = {
      ...this.stopped,
      refused: this.stopped.refused.filter(({ control }) => !isGone(control)),
      rested: new Set([...this.stopped.rested].filter((id) => !isGone(id))),
    };
  }

  /** The hands as they are now, to come {@link back} to. */
  mark(): HandsMark {
    return {
      fingers: [...this.fingers].map(([id, finger]) => [id, finger.copy()]),
      poised: [...this.poised],
      stopped: copyOf(this.stopped),
      tryout: this.tryout.mark(),
      recalled: [...this.recalled],
    };
  }

  /** Forgets all that came since a mark. */
  back({ fingers, poised, stopped, tryout, recalled }: HandsMark): void {
    this.fingers.clear();
    for (const [id, finger] of fingers) this.fingers.set(id, finger.copy());
    this.poised.clear();
    for (const [id, value] of poised) this.poised.set(id, value);
    this.stopped = copyOf(stopped);
    this.tryout.back(tryout);
    this.recalled.clear();
    for (const id of recalled) this.recalled.add(id);
  }
}
