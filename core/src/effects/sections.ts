import type { Frames } from '../units/index.js';
import { EffectKernel, GRID_FRAMES, settle } from './kernel.js';
import { SECTION, throughMoving, throughSteady, type SectionRun } from './stateVariable.js';

/** Sections one after the other on each side: what equaliser and filter have in common. */
export abstract class SectionsKernel extends EffectKernel {
  readonly #states: Float64Array;
  readonly #samples = new Float64Array(GRID_FRAMES);
  readonly #runs: readonly (readonly SectionRun[])[];
  /** The numbers of each run as they are now, and where the kernel has those that they began with. */
  readonly #numbers: Float64Array;
  readonly #begins: Int32Array;

  /** `numbersOf`: which of the sets of numbers each of the sections goes by. */
  constructor(parameters: number, numbersOf: readonly number[], sides: 1 | 2) {
    super(parameters, SECTION.length * (Math.max(...numbersOf) + 1));
    const { slopes } = this;
    const runs = numbersOf.length * sides;
    const [states, numbers] = [new Float64Array(2 * runs), new Float64Array(SECTION.length * runs)];
    this.#states = states;
    this.#numbers = numbers;
    this.#begins = Int32Array.from({ length: runs }, (_, run) => SECTION.length * numbersOf[run % numbersOf.length]!);
    this.#runs = Array.from({ length: sides }, (_, side) =>
      numbersOf.map((set, i) => {
        const run = side * numbersOf.length + i;
        const at = SECTION.length * run;
        return { ...{ states, numbers, slopes, at }, state: 2 * run, slope: SECTION.length * set };
      }),
    );
  }

  clear(): void {
    this.#states.fill(0);
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    if (done === 0) this.#begin();
    for (let side = 0; side < this.#runs.length; side++) {
      const sound = side === 0 ? left : right;
      const samples = this.#samples;
      for (let i = 0; i < count; i++) samples[i] = sound[at + i]!;
      for (let n = 0; n < this.#runs[side]!.length; n++) this.#through(this.#runs[side]![n]!, count);
      for (let i = 0; i < count; i++) sound[at + i] = samples[i]!;
    }
    settle(this.#states);
  }

  /** Every run has the numbers that the stretch begins with. */
  #begin(): void {
    const { starts } = this;
    for (let run = 0; run < this.#begins.length; run++)
      for (let k = 0; k < SECTION.length; k++)
        this.#numbers[SECTION.length * run + k] = starts[this.#begins[run]! + k]!;
  }

  #through(run: SectionRun, count: Frames): void {
    if (this.isSteady && isFlat(run)) {
      run.states[run.state] = 0;
      run.states[run.state + 1] = 0;
    } else if (this.isSteady) throughSteady(this.#samples, count, run);
    else throughMoving(this.#samples, count, run);
  }
}

/** A section that gives out what it is given costs nothing, and has nothing to remember. */
const isFlat = ({ numbers, at }: SectionRun): boolean =>
  numbers[at + SECTION.m0] === 1 && numbers[at + SECTION.m1] === 0 && numbers[at + SECTION.m2] === 0;
