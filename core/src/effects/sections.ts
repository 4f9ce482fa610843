import type { Frames } from '../units/index.js';
import { EffectKernel, GRID_FRAMES, settle } from './kernel.js';
import { SECTION, throughMoving, throughSteady, type SectionRun } from './stateVariable.js';

/** Sections one after the other on each side: what equaliser and filter have in common. */
export abstract class SectionsKernel extends EffectKernel {
  readonly #states: Float64Array;
  readonly #samples = new Float64Array(GRID_FRAMES);
  readonly #runs: readonly (readonly SectionRun[])[];

  /** `sections`: how many there are; `numbersOf`: which of the sets of numbers each goes by. */
  constructor(parameters: number, numbersOf: readonly number[], sides: 1 | 2) {
    super(parameters, SECTION.length * (Math.max(...numbersOf) + 1));
    const { starts, slopes } = this;
    this.#states = new Float64Array(2 * numbersOf.length * sides);
    const states = this.#states;
    this.#runs = Array.from({ length: sides }, (_, side) =>
      numbersOf.map((set, i) => ({
        ...{ states, starts, slopes },
        state: 2 * (side * numbersOf.length + i),
        at: set * SECTION.length,
      })),
    );
  }

  clear(): void {
    this.#states.fill(0);
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    for (let side = 0; side < this.#runs.length; side++) {
      const sound = side === 0 ? left : right;
      const samples = this.#samples;
      for (let i = 0; i < count; i++) samples[i] = sound[at + i]!;
      for (let n = 0; n < this.#runs[side]!.length; n++) this.#through(this.#runs[side]![n]!, count, done);
      for (let i = 0; i < count; i++) sound[at + i] = samples[i]!;
    }
    settle(this.#states);
  }

  #through(run: SectionRun, count: Frames, done: Frames): void {
    if (this.isSteady && isFlat(run)) {
      run.states[run.state] = 0;
      run.states[run.state + 1] = 0;
    } else if (this.isSteady) throughSteady(this.#samples, count, run);
    else throughMoving(this.#samples, count, run, done);
  }
}

/** A section that gives out what it is given costs nothing, and has nothing to remember. */
const isFlat = ({ starts, at }: SectionRun): boolean =>
  starts[at + SECTION.m0] === 1 && starts[at + SECTION.m1] === 0 && starts[at + SECTION.m2] === 0;
