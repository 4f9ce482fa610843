import { codeMemory, compiled, type CodeMemory } from '../units/index.js';
import { GROWTH_CODE } from './growthCode.js';

/** A tube round samples, column by column. */
export type TubeColumns = {
  t: Float64Array;
  /** The tube: lowest and highest value allowed at each sample. */
  low: Float64Array;
  high: Float64Array;
  /** What a vertex there can be, once reached. */
  reachLow: Float64Array;
  reachHigh: Float64Array;
  /** Hulls of the walls passed on the way: of the floor from above, of the ceiling from below. */
  floor: Int32Array;
  ceiling: Int32Array;
  readonly grow: Growth;
};

/** What {@link growPlainly} does, of columns that it knows. */
type Growth = (columns: TubeColumns, from: number, reached: number, far: number, n: number) => number;

/** Columns for so many samples. */
export function plainColumns(room: number): TubeColumns {
  const values = (): Float64Array => new Float64Array(room);
  const hull = (): Int32Array => new Int32Array(room);
  return {
    t: values(),
    low: values(),
    high: values(),
    reachLow: values(),
    reachHigh: values(),
    floor: hull(),
    ceiling: hull(),
    grow: growPlainly,
  };
}

/** A run of fewer samples is not worth a memory of its own. */
const MANY = 4096;

type GrowthCode = { grow(...of: readonly number[]): number };

let instance: ((memory: CodeMemory) => object) | null | undefined;

/** Eight bytes for each of five columns, four for each of two hulls. */
const SAMPLE_BYTES = 5 * 8 + 2 * 4;

/** Columns for a run that is there whole: of a long one, in a memory of their own, where the machine's code grows it in half the time. */
export function columnsForRun(n: number): TubeColumns {
  if (n < MANY) return plainColumns(n);
  if (instance === undefined) instance = compiled(GROWTH_CODE) ?? null;
  const memory = instance ? codeMemory(SAMPLE_BYTES * n) : undefined;
  return instance && memory ? machineColumns(instance(memory) as GrowthCode, memory.buffer, n) : plainColumns(n);
}

function machineColumns({ grow }: GrowthCode, buffer: ArrayBuffer, n: number): TubeColumns {
  const bytes = 8 * n;
  const hullAt = (i: number): number => 5 * bytes + 4 * n * i;
  const [t, low, high, reachLow, reachHigh] = [0, 1, 2, 3, 4].map((i) => new Float64Array(buffer, i * bytes, n)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  return {
    t,
    low,
    high,
    reachLow,
    reachHigh,
    floor: new Int32Array(buffer, hullAt(0), n),
    ceiling: new Int32Array(buffer, hullAt(1), n),
    grow: (_, from, reached, far, count) =>
      grow(0, bytes, 2 * bytes, 3 * bytes, 4 * bytes, hullAt(0), hullAt(1), from, reached, far, count),
  };
}

/**
 * Sends straight lines from the window at `from` through the windows of the samples after it, of which there are `n` in all: see
 * {@link ReachTube.grow}. Gives back the last sample that one of them reaches.
 *
 * Kept are the steepest and the shallowest line through all windows so far; each leans on one wall behind and the
 * other ahead, so both are found by walking the hulls of the walls, each entry once. Longer than other functions
 * because everything it touches stays in local variables: it is the inner loop of thinning.
 */
// oxlint-disable-next-line max-lines-per-function -- the inner loop of thinning, see above
export function growPlainly(columns: TubeColumns, from: number, reached: number, far: number, n: number): number {
  const { t, low, high, reachLow, reachHigh, floor, ceiling } = columns;
  const first = from + 1;
  const firstStep = t[first]! - t[from]!;
  let steepTime = t[from]!;
  let steepValue = low[from]!;
  let steep = (high[first]! - steepValue) / firstStep;
  let shallowTime = t[from]!;
  let shallowValue = high[from]!;
  let shallow = (low[first]! - shallowValue) / firstStep;
  let floorHead = 0;
  let floorTail = 1;
  let ceilingHead = 0;
  let ceilingTail = 1;
  floor[0] = from;
  ceiling[0] = from;
  let i = first;
  for (; i < n; i++) {
    const ti = t[i]!;
    const l = low[i]!;
    const h = high[i]!;
    const lowest = shallowValue + shallow * (ti - shallowTime);
    const highest = steepValue + steep * (ti - steepTime);
    if (i > first && (l > highest || h < lowest)) break;
    if (i > reached) {
      const bottom = l > lowest ? l : lowest;
      const top = h < highest ? h : highest;
      if (i > far) {
        reachLow[i] = bottom;
        reachHigh[i] = top;
      } else if (bottom <= reachHigh[i]! && top >= reachLow[i]!) {
        if (bottom < reachLow[i]!) reachLow[i] = bottom;
        if (top > reachHigh[i]!) reachHigh[i] = top;
      } else if (top - bottom > reachHigh[i]! - reachLow[i]!) {
        reachLow[i] = bottom;
        reachHigh[i] = top;
      }
    }
    if (h < highest) {
      // The ceiling comes down on the steepest line: it now leans on this window and on the floor hull behind.
      steep = (h - low[floor[floorHead]!]!) / (ti - t[floor[floorHead]!]!);
      while (floorHead + 1 < floorTail) {
        const next = floor[floorHead + 1]!;
        const slope = (h - low[next]!) / (ti - t[next]!);
        if (slope > steep) break;
        steep = slope;
        floorHead++;
      }
      steepTime = ti;
      steepValue = h;
    }
    if (l > lowest) {
      shallow = (l - high[ceiling[ceilingHead]!]!) / (ti - t[ceiling[ceilingHead]!]!);
      while (ceilingHead + 1 < ceilingTail) {
        const next = ceiling[ceilingHead + 1]!;
        const slope = (l - high[next]!) / (ti - t[next]!);
        if (slope < shallow) break;
        shallow = slope;
        ceilingHead++;
      }
      shallowTime = ti;
      shallowValue = l;
    }
    while (floorTail - floorHead >= 2) {
      const q = floor[floorTail - 1]!;
      const p = floor[floorTail - 2]!;
      if ((low[q]! - low[p]!) * (ti - t[q]!) > (l - low[q]!) * (t[q]! - t[p]!)) break;
      floorTail--;
    }
    floor[floorTail++] = i;
    while (ceilingTail - ceilingHead >= 2) {
      const q = ceiling[ceilingTail - 1]!;
      const p = ceiling[ceilingTail - 2]!;
      if ((high[q]! - high[p]!) * (ti - t[q]!) < (h - high[q]!) * (t[q]! - t[p]!)) break;
      ceilingTail--;
    }
    ceiling[ceilingTail++] = i;
  }
  return i - 1;
}
