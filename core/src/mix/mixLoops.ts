import { SIMD_CODE } from './simdCode.js';
import { ELSEWHERE, IN_THREAD, compiled, threadMemory, type Frames, type Gain } from '../units/index.js';

/** Two gains that go straight, side by side: at sample k they are gain + slope · (k + offset). */
export type SideGains = { gainLeft: Gain; slopeLeft: number; gainRight: Gain; slopeRight: number };

/**
 * The buffers a mix is rendered in, and the inner loops over them: `inputLeft` and `inputRight` hold what a node has,
 * `lefts` and `rights` the sums it is added to, in double, one of each for every target. What is in them counts only
 * within one call of the renderer.
 */
export type MixLoops = {
  readonly inputLeft: Float32Array;
  readonly inputRight: Float32Array;
  readonly lefts: readonly Float64Array[];
  readonly rights: readonly Float64Array[];
  /** Where the thread's memory has the two inputs; −1 where they are not in it. */
  readonly inputAt: readonly [left: number, right: number];
  /** left[k] += inputLeft[k] · its gain there, right[k] += inputLeft[k] · its, of a target, for k in [from, to). */
  addMono(target: number, gains: SideGains, offset: Frames, from: Frames, to: Frames): void;
  /** The same with an input for each side. */
  addStereo(target: number, gains: SideGains, offset: Frames, from: Frames, to: Frames): void;
  /** Highest magnitude of an input (0: left) times gain + slope · (k + offset), for k in [from, to): for meters. */
  peak(side: 0 | 1, gain: Gain, slope: number, offset: Frames, from: Frames, to: Frames): number;
};

/** The loops in plain numbers: for where there are no vectors, and to hold the others against. */
export class PlainLoops implements MixLoops {
  readonly inputLeft: Float32Array;
  readonly inputRight: Float32Array;
  readonly lefts: readonly Float64Array[];
  readonly rights: readonly Float64Array[];
  readonly inputAt = ELSEWHERE;

  constructor(targets: number, maxBlock: Frames) {
    const sums = (): Float64Array[] => Array.from({ length: targets }, () => new Float64Array(maxBlock));
    this.inputLeft = new Float32Array(maxBlock);
    this.inputRight = new Float32Array(maxBlock);
    this.lefts = sums();
    this.rights = sums();
  }

  addMono(target: number, gains: SideGains, offset: Frames, from: Frames, to: Frames): void {
    add(this.inputLeft, this.inputLeft, this.lefts[target]!, this.rights[target]!, gains, offset, from, to);
  }

  addStereo(target: number, gains: SideGains, offset: Frames, from: Frames, to: Frames): void {
    add(this.inputLeft, this.inputRight, this.lefts[target]!, this.rights[target]!, gains, offset, from, to);
  }

  peak(side: 0 | 1, gain: Gain, slope: number, offset: Frames, from: Frames, to: Frames): number {
    const input = side === 0 ? this.inputLeft : this.inputRight;
    let peak = 0;
    for (let k = from; k < to; k++) {
      const x = Math.abs(input[k]! * (gain + slope * (k + offset)));
      if (x > peak) peak = x;
    }
    return peak;
  }
}

function add(
  inLeft: Float32Array,
  inRight: Float32Array,
  left: Float64Array,
  right: Float64Array,
  { gainLeft, slopeLeft, gainRight, slopeRight }: SideGains,
  offset: Frames,
  from: Frames,
  to: Frames,
): void {
  for (let k = from; k < to; k++) {
    const d = k + offset;
    left[k]! += inLeft[k]! * (gainLeft + slopeLeft * d);
    right[k]! += inRight[k]! * (gainRight + slopeRight * d);
  }
}

/** The vector loops as they are called: addresses in bytes, the rest as {@link MixLoops} has it. */
type Vectors = {
  addMono(...of: readonly number[]): void;
  addStereo(...of: readonly number[]): void;
  peak(...of: readonly number[]): number;
};

let vectors: Vectors | null | undefined;

/** The one set of vector loops of this thread; null where it has none. */
function vectorsHere(): Vectors | null {
  // Where there are none the plain loops give the same, only later.
  if (vectors === undefined) {
    const memory = threadMemory();
    const code = memory && compiled(SIMD_CODE);
    vectors = code ? (code(memory) as Vectors) : null;
  }
  return vectors;
}

/** The loops in vectors, two frames at a time: the same results to the last bit. */
class VectorLoops implements MixLoops {
  readonly inputLeft: Float32Array;
  readonly inputRight: Float32Array;
  readonly lefts: readonly Float64Array[];
  readonly rights: readonly Float64Array[];
  readonly inputAt: readonly [left: number, right: number];
  readonly #sumBytes: number;

  constructor(
    readonly vectors: Vectors,
    readonly buffer: ArrayBuffer,
    targets: number,
    maxBlock: Frames,
  ) {
    this.inputAt = [IN_THREAD.mix, IN_THREAD.mix + 4 * maxBlock];
    this.#sumBytes = 8 * maxBlock;
    const sums = (side: number): Float64Array[] =>
      Array.from({ length: targets }, (_, i) => new Float64Array(buffer, this.#sumAt(2 * i + side), maxBlock));
    this.inputLeft = new Float32Array(buffer, this.inputAt[0], maxBlock);
    this.inputRight = new Float32Array(buffer, this.inputAt[1], maxBlock);
    this.lefts = sums(0);
    this.rights = sums(1);
  }

  /** How much of the memory loops for so many targets take. */
  static bytes(targets: number, maxBlock: Frames): number {
    return 8 * maxBlock * (1 + 2 * targets);
  }

  addMono(target: number, gains: SideGains, offset: Frames, from: Frames, to: Frames): void {
    const { gainLeft, slopeLeft, gainRight, slopeRight } = gains;
    const left = this.#sumAt(2 * target);
    const right = left + this.#sumBytes;
    this.vectors.addMono(this.inputAt[0], left, right, gainLeft, slopeLeft, gainRight, slopeRight, offset, from, to);
  }

  addStereo(target: number, gains: SideGains, offset: Frames, from: Frames, to: Frames): void {
    const { gainLeft, slopeLeft, gainRight, slopeRight } = gains;
    const left = this.#sumAt(2 * target);
    const right = left + this.#sumBytes;
    const { inputAt } = this;
    this.vectors.addStereo(
      inputAt[0],
      inputAt[1],
      left,
      right,
      gainLeft,
      slopeLeft,
      gainRight,
      slopeRight,
      offset,
      from,
      to,
    );
  }

  peak(side: 0 | 1, gain: Gain, slope: number, offset: Frames, from: Frames, to: Frames): number {
    return this.vectors.peak(this.inputAt[side], gain, slope, offset, from, to);
  }

  #sumAt(i: number): number {
    return this.inputAt[0] + (i + 1) * this.#sumBytes;
  }
}

/** Loops and buffers for a mix of so many targets, in vectors where the machine has them and they have room. */
export function mixLoops(targets: number, maxBlock: Frames): MixLoops {
  const memory = threadMemory();
  const here = vectorsHere();
  return memory && here && IN_THREAD.mix + VectorLoops.bytes(targets, maxBlock) <= IN_THREAD.end
    ? new VectorLoops(here, memory.buffer, targets, maxBlock)
    : new PlainLoops(targets, maxBlock);
}
