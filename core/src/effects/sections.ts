import type { Frames } from '../units/index.js';
import { EffectKernel, STRAIGHT } from './kernel.js';
import { STRAIGHT_AT, listInRoom, type SectionList, type SectionRoom } from './sectionRoom.js';
import { RUN, SECTION } from './stateVariable.js';

const TWO = 2 * SECTION.length;

/** Sections one after the other on each side: what equaliser and filter have in common. They are gone through two by two. */
export abstract class SectionsKernel extends EffectKernel {
  protected readonly room: SectionRoom;
  protected readonly list: SectionList;
  readonly #runs: number;
  readonly #pairs: number;
  readonly #sides: 1 | 2;

  /** `sections`: at most four. What parameters lead to are the numbers of each; of an odd one out those of its missing neighbour, too. */
  constructor(parameters: number, sections: number, sides: 1 | 2) {
    const pairs = Math.ceil(sections / 2);
    const { room, list } = listInRoom();
    super(parameters, TWO * pairs, list.numbers);
    this.room = room;
    this.list = list;
    this.#runs = 3 * TWO * pairs + parameters;
    this.#pairs = pairs;
    this.#sides = sides;
    if (room.straight) this.straight = list.numbers.subarray(STRAIGHT_AT, STRAIGHT_AT + STRAIGHT.length);
  }

  override readStraight(): boolean {
    const { length } = this.values;
    return this.room.straight!(this.list, this.#runs - length, length);
  }

  override get isAtRest(): boolean {
    const { numbers } = this.list;
    for (let run = 0; run < this.#sides * this.#pairs; run++) {
      const at = this.#runs + RUN.length * run;
      for (let i = at; i < at + RUN.numbers; i++) if (numbers[i] !== 0) return false;
    }
    return true;
  }

  clear(): void {
    for (let side = 0; side < this.#sides; side++) for (let n = 0; n < this.#pairs; n++) this.#rest(this.#run(side, n));
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    for (let side = 0; side < this.#sides; side++) {
      const sound = side === 0 ? left : right;
      const place = this.soundAt[side]!;
      this.room.bring(sound, place, at, count);
      for (let n = 0; n < this.#pairs; n++) this.#through(this.#run(side, n), n, count, done > 0);
      this.room.take(sound, place, at, count);
    }
  }

  /** Where the list has the run of a pair. */
  #run(side: number, n: number): number {
    return this.#runs + RUN.length * (this.#pairs * side + n);
  }

  #through(run: number, n: number, count: Frames, begun: boolean): void {
    // What gives out what it is given costs nothing, and has nothing to remember.
    if (this.isSteady && this.#isFlat(2 * n) && this.#isFlat(2 * n + 1)) this.#rest(run);
    else this.room.two(this.list, run, TWO * n, TWO * (this.#pairs + n), begun, count);
  }

  #isFlat(section: number): boolean {
    const { starts } = this;
    const at = SECTION.length * section;
    return starts[at + SECTION.d] === 1 && starts[at + SECTION.p] === 0 && starts[at + SECTION.q] === 0;
  }

  #rest(run: number): void {
    for (let i = run; i < run + RUN.numbers; i++) this.list.numbers[i] = 0;
  }
}
