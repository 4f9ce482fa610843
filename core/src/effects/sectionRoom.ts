import { IN_THREAD, compiled, threadMemory, type Frames } from '../units/index.js';
import { GRID_FRAMES, STRAIGHT } from './kernel.js';
import { SECTIONS_CODE } from './sectionsCode.js';
import { RUN, SECTION, settleRun, throughSection } from './stateVariable.js';

/**
 * Where samples go through sections, two by two: brought in, sent through, taken back. What is in it counts only from one to the
 * other. `place`, of a sound: where the thread's memory has it; −1: it is not in it.
 */
export type SectionRoom = {
  /** Brings in `count` samples of a sound, at most {@link GRID_FRAMES}, from `at` on. */
  bring(sound: Float32Array, place: number, at: Frames, count: Frames): void;
  /**
   * Sends the first `count` samples, one at least, through two sections. In a list taken from here stand, at these places, their
   * {@link RUN}, the numbers that they begin with (12, unless they have `begun`), and by how much those change with each sample.
   */
  two(list: SectionList, run: number, starts: number, slopes: number, begun: boolean, count: Frames): void;
  /** Takes them back to where they came from. */
  take(sound: Float32Array, place: number, at: Frames, count: Frames): void;
  /**
   * {@link EffectKernel.lead} of four bands in a list of {@link EQUALISER_LIST}. Undefined where the kernel's own is as good.
   */
  readonly lead?: (list: SectionList, frames: Frames) => void;
  /**
   * {@link EffectKernel.readStraight} of so many parameters, an even number, whose values stand at a place of a list. Undefined where one by one is as
   * good.
   */
  readonly straight?: (list: SectionList, values: number, count: number) => boolean;
  /** A list of zeros, long enough for any of them; its place is given to another once nobody has it any more. Null where there is no more room. */
  list(): SectionList | null;
};

/** Numbers, and where the thread's memory has them, in bytes. */
export type SectionList = { readonly numbers: Float64Array; readonly place: number };

/**
 * Where the list of an equaliser has what: 24 numbers each as they start, their slopes, as they end; three values of each band; the runs of its
 * pairs; the shape of each band, as its place in {@link BAND_SHAPES}; the sample rate.
 */
export const EQUALISER_LIST = { values: 72, shapes: 148, sampleRate: 152 } as const;
/** Where any list has parameters that go straight. */
export const STRAIGHT_AT = 154;
/** Enough for any effect that is made of sections. */
const LIST_LENGTH = STRAIGHT_AT + STRAIGHT.length;

/** The room in plain numbers: for where there are no vectors, and to hold the other against. */
export class PlainRoom implements SectionRoom {
  readonly #samples = new Float64Array(GRID_FRAMES);

  bring(sound: Float32Array, _: number, at: Frames, count: Frames): void {
    for (let i = 0; i < count; i++) this.#samples[i] = sound[at + i]!;
  }

  two({ numbers }: SectionList, run: number, starts: number, slopes: number, begun: boolean, count: Frames): void {
    if (!begun) for (let k = 0; k < 2 * SECTION.length; k++) numbers[run + RUN.numbers + k] = numbers[starts + k]!;
    throughSection(this.#samples, count, numbers, run, slopes, 0);
    throughSection(this.#samples, count, numbers, run, slopes, 1);
    settleRun(numbers, run);
  }

  take(sound: Float32Array, _: number, at: Frames, count: Frames): void {
    for (let i = 0; i < count; i++) sound[at + i] = this.#samples[i]!;
  }

  list(): SectionList {
    return { numbers: new Float64Array(LIST_LENGTH), place: -1 };
  }
}

type Vectors = {
  bring(place: number, count: Frames): void;
  two(run: number, starts: number, slopes: number, begun: number, count: Frames): void;
  take(place: number, count: Frames): void;
  lead(list: number, frames: Frames): void;
  straight(rows: number, values: number, count: number): number;
};
const SAMPLE_BYTES = Float32Array.BYTES_PER_ELEMENT;
const BYTES = Float64Array.BYTES_PER_ELEMENT;
const LIST_BYTES = LIST_LENGTH * BYTES;

/** The room in vectors, in which both sections work at once, the second a sample behind the first: the same results to the last bit. */
class VectorRoom implements SectionRoom {
  readonly #samples: Float64Array;
  /** Where the first list is that nobody has had yet, and those that were given back. */
  #next: number = IN_THREAD.sections + BYTES * GRID_FRAMES;
  readonly #free: number[] = [];
  readonly #taken = new FinalizationRegistry<number>((place) => this.#free.push(place));

  constructor(
    readonly vectors: Vectors,
    readonly buffer: ArrayBuffer,
  ) {
    this.#samples = new Float64Array(buffer, IN_THREAD.sections, GRID_FRAMES);
  }

  bring(sound: Float32Array, place: number, at: Frames, count: Frames): void {
    if (place >= 0) this.vectors.bring(place + SAMPLE_BYTES * at, count);
    else for (let i = 0; i < count; i++) this.#samples[i] = sound[at + i]!;
  }

  two({ place }: SectionList, run: number, starts: number, slopes: number, begun: boolean, count: Frames): void {
    this.vectors.two(place + BYTES * run, place + BYTES * starts, place + BYTES * slopes, begun ? 1 : 0, count);
  }

  take(sound: Float32Array, place: number, at: Frames, count: Frames): void {
    if (place >= 0) this.vectors.take(place + SAMPLE_BYTES * at, count);
    else for (let i = 0; i < count; i++) sound[at + i] = this.#samples[i]!;
  }

  lead({ place }: SectionList, frames: Frames): void {
    this.vectors.lead(place, frames);
  }

  straight({ place }: SectionList, values: number, count: number): boolean {
    return this.vectors.straight(place + BYTES * STRAIGHT_AT, place + BYTES * values, count) === 1;
  }

  list(): SectionList | null {
    const place = this.#free.pop() ?? this.#next;
    if (place + LIST_BYTES > IN_THREAD.mix) return null;
    if (place === this.#next) this.#next += LIST_BYTES;
    const list = { numbers: new Float64Array(this.buffer, place, LIST_LENGTH).fill(0), place };
    this.#taken.register(list, place);
    return list;
  }
}

const plain = new PlainRoom();
let vectors: SectionRoom | undefined;

/** The room of this thread, in vectors where the machine has them. */
export function sectionRoom(): SectionRoom {
  if (!vectors) {
    const memory = threadMemory();
    const code = memory && compiled(SECTIONS_CODE);
    vectors = code ? new VectorRoom(code(memory) as Vectors, memory.buffer) : plain;
  }
  return vectors;
}

/** A list, and the room that goes with it: plain where the other is full. */
export function listInRoom(): { readonly room: SectionRoom; readonly list: SectionList } {
  const room = sectionRoom();
  const list = room.list();
  return list ? { room, list } : { room: plain, list: plain.list() };
}
