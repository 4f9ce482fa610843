import { lastNotAfter, type Seconds } from '../units/index.js';
import { waveAt, waveInPlace, type Wave } from './wave.js';

/**
 * How something turns over a song, straight between its marks: from `t` on it has made so many `turns`, and makes `perSec` a second
 * more. The first mark is the song's start. The columns can be sent to another thread as they are.
 */
export type Turning = { readonly t: Float64Array; readonly turns: Float64Array; readonly perSec: Float64Array };

/** A slow movement round a steady line (page 8): its wave, and how it turns. */
export type Swaying = { readonly wave: Wave; readonly seed: number; readonly turning: Turning };

/** Turns that count as made so early: a step on a time is made there whatever its rounding. */
export const HAIR_TURNS = 1e-8;
/** How many steps a turn has. */
export const STEPS: Readonly<Record<Wave, 0 | 1 | 2>> = {
  sine: 0,
  triangle: 0,
  square: 2,
  sawUp: 1,
  sawDown: 1,
  steps: 1,
};

const markAt = ({ t }: Turning, time: Seconds): number => Math.max(0, lastNotAfter(t, time));

/** How many turns have been made at a time. */
export function turnsAt(turning: Turning, time: Seconds): number {
  const i = markAt(turning, time);
  return turning.turns[i]! + (time - turning.t[i]!) * turning.perSec[i]!;
}

/** When so many turns have been made. */
export function timeOfTurns({ t, turns, perSec }: Turning, made: number): Seconds {
  const i = Math.max(0, lastNotAfter(turns, made));
  return t[i]! + (made - turns[i]!) / perSec[i]!;
}

/** Where it is at a time, −1 … 1; a step on that time has been made. */
export const swayingAt = (swaying: Swaying, time: Seconds): number =>
  waveAt(swaying, turnsAt(swaying.turning, time) + (STEPS[swaying.wave] ? HAIR_TURNS : 0));

/** Reads a slow movement in the audio thread: allocates nothing after its making. */
export class SwayReader {
  /** Turns made before, turns made now, and where the next step is. */
  readonly #turns = new Float64Array(3);
  readonly #steps: 0 | 1 | 2;

  constructor(readonly swaying: Swaying) {
    this.#steps = STEPS[swaying.wave];
  }

  /** The turns made at the time that stands at a place among numbers, to a place among its own. */
  #turnTo(to: number, numbers: Float64Array, place: number): void {
    const { t, turns, perSec } = this.swaying.turning;
    let i = t.length - 1;
    while (i > 0 && t[i]! > numbers[place]!) i--;
    this.#turns[to] = turns[i]! + (numbers[place]! - t[i]!) * perSec[i]!;
  }

  /**
   * The number at a place among others is a time, and becomes where the movement is then, −1 … 1. `before`: the place of an earlier
   * time, since which a step may have been made that is not to count yet: it is where it arrives with; −1 for where it goes on from.
   */
  waveInto(numbers: Float64Array, place: number, before: number): void {
    const made = this.#turns;
    this.#turnTo(1, numbers, place);
    if (this.#steps) {
      made[1]! += HAIR_TURNS;
      if (before >= 0) {
        this.#turnTo(0, numbers, before);
        const last = Math.floor(made[1]! * this.#steps) / this.#steps;
        if (made[0]! + HAIR_TURNS < last) made[1] = last - HAIR_TURNS;
      }
    }
    waveInPlace(this.swaying.wave, this.swaying.seed, made, 1);
    numbers[place] = made[1]!;
  }

  /** The number at a place among others is a time, and becomes that of the next step after it; ∞ where there is none. */
  nextStepInto(numbers: Float64Array, place: number): void {
    if (!this.#steps) {
      numbers[place] = Infinity;
      return;
    }
    const { t, turns, perSec } = this.swaying.turning;
    const made = this.#turns;
    this.#turnTo(0, numbers, place);
    made[2] = (Math.floor((made[0]! + HAIR_TURNS) * this.#steps) + 1) / this.#steps;
    let i = t.length - 1;
    while (i > 0 && turns[i]! > made[2]) i--;
    numbers[place] = t[i]! + (made[2] - turns[i]!) / perSec[i]!;
  }
}
