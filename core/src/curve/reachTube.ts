import type { Seconds, Travel } from '../units/index.js';
import { columnsForRun, plainColumns } from './growth.js';
import { indexOf, isWide, type Place, type StartLevels } from './startLevels.js';

/** A run of samples in travel: times strictly rising, straight lines between. */
export type Samples = { readonly t: ArrayLike<Seconds>; readonly x: ArrayLike<Travel> };

/** What a vertex at a sample is by its owner's own measure, if that is another than travel. */
export type Measure = (x: Travel, index: number) => number;

/**
 * A vertex of a path, at a sample. `level`: the one among whose starts the vertex before it is looked for, −1 where it is the
 * first; {@link ENTERED} where that one is not looked for. `worst`: how far the path to here is from the samples at most.
 */
export type Vertex = {
  readonly index: number;
  readonly x: Travel;
  /** By its {@link Measure}. */
  readonly v: number;
  readonly level: number;
  readonly worst: number;
};

/** The level of a wide start, which was entered from the sample before it. */
const ENTERED = -2;

/** A vertex as it is looked for. */
type Step = Pick<Vertex, 'index' | 'x' | 'level'>;
const isSame = (a: Vertex, b: Step): boolean => a.index === b.index && a.x === b.x && a.level === b.level;

const NARROW = 1;
const WIDE = 2;

const NONE = new Float64Array(0);

/** A hair less than the tolerance, so that rounding never goes past it. */
const SLACK = 1e-12;

/**
 * The tube of ±tolerance round a run of samples, and for every sample the interval of values that a vertex there
 * can have with as few segments as possible. Samples may come while it is looked at: see {@link ThinStream}.
 */
export class ReachTube {
  #n = 0;
  #x: Float64Array = NONE;
  /** Longer than there are samples, while they come. */
  #columns = plainColumns(0);
  /** Starts of the level that the way back looks at. */
  #marks = new Uint8Array(0);

  constructor(
    readonly tolerance: number,
    readonly measure: Measure = (x) => x,
  ) {}

  /** How many samples have come. */
  get length(): number {
    return this.#n;
  }

  /** When a sample stands. */
  timeOf(index: number): Seconds {
    return this.#columns.t[index]!;
  }

  /** What a sample is. */
  travelOf(index: number): Travel {
    return this.#x[index]!;
  }

  /** A sample comes; its time is after all before it. */
  push(t: Seconds, x: Travel): void {
    const i = this.#n;
    if (i === this.#x.length) this.#makeRoom(Math.max(16, 2 * i));
    this.#n++;
    this.#columns.t[i] = t;
    this.#x[i] = x;
    this.#wall(i, i + 1);
  }

  /** All samples of a run come at once, and none after. */
  take({ t, x }: Samples): void {
    this.#n = t.length;
    this.#x = x instanceof Float64Array ? x : Float64Array.from(x);
    this.#columns = columnsForRun(t.length);
    this.#columns.t.set(t);
    this.#marks = new Uint8Array(t.length);
    this.#wall(0, t.length);
  }

  /** Builds the tube round samples from one up to but not at another. */
  #wall(from: number, to: number): void {
    const x = this.#x;
    const { low, high } = this.#columns;
    const reach = this.tolerance - SLACK;
    for (let i = from; i < to; i++) {
      const at = x[i]!;
      const floor = at < 0 ? at : 0;
      const ceiling = at > 1 ? at : 1;
      low[i] = at - reach < floor ? floor : at - reach;
      high[i] = at + reach > ceiling ? ceiling : at + reach;
    }
  }

  /** The line goes through this sample exactly. */
  pin(index: number): void {
    const { low, high } = this.#columns;
    low[index] = high[index] = this.#x[index]!;
  }

  /** Samples from the nth on never came, and the one before is not the last. */
  truncate(n: number): void {
    if (n === 0) return void (this.#n = 0);
    this.#n = n - 1;
    // As it came: it was pinned as the last.
    this.push(this.#columns.t[n - 1]!, this.#x[n - 1]!);
    if (n === 1) this.pin(0);
  }

  #makeRoom(room: number): void {
    const before = this.#columns;
    const after = plainColumns(room);
    for (const name of ['t', 'low', 'high', 'reachLow', 'reachHigh'] as const) after[name].set(before[name]);
    this.#columns = after;
    const x = this.#x;
    this.#x = new Float64Array(room);
    this.#x.set(x);
    this.#marks = new Uint8Array(room);
  }

  /** A vertex at this sample has exactly its value. */
  begin(index: number): void {
    this.pin(index);
    const { reachLow, reachHigh } = this.#columns;
    reachLow[index] = reachHigh[index] = this.#x[index]!;
  }

  /**
   * Sends straight segments from the vertex at a place (any value it can have) as far as the tube lets them. What they reach
   * past `reached` a vertex can be: up to `far` that joins, or where it is wider replaces, what others have reached already.
   * Gives back the last sample that one of them reaches.
   */
  grow(place: Place, reached: number, far: number): number {
    const columns = this.#columns;
    const { low, high, reachLow, reachHigh } = columns;
    const from = indexOf(place);
    const wallLow = low[from]!;
    const wallHigh = high[from]!;
    if (!isWide(place)) {
      // For the while, the tube is as narrow here as what a vertex can be.
      low[from] = reachLow[from]!;
      high[from] = reachHigh[from]!;
    }
    const last = columns.grow(columns, from, reached, far, this.#n);
    low[from] = wallLow;
    high[from] = wallHigh;
    return last;
  }

  /** All samples as they are, as a path. */
  samples(): Vertex[] {
    return Array.from({ length: this.#n }, (_, index) => {
      const x = this.#x[index]!;
      return { index, x, v: this.measure(x, index), level: -1, worst: 0 };
    });
  }

  /** A vertex at a sample, of a path that is looked for from there: as near to the sample as it can be. */
  endAt(index: number, level: number): Step {
    const { reachLow, reachHigh } = this.#columns;
    return { index, x: this.#nearest(index, reachLow[index]!, reachHigh[index]!), level };
  }

  /**
   * Reads the path to a vertex off backwards: of each level a start from which the vertex after it can be seen. Where it comes
   * to a vertex of a path that is `known`, it is that path from there on.
   */
  pathBack(starts: StartLevels, end: Step, known: readonly Vertex[]): Vertex[] {
    const fresh = [end];
    let near = known.length - 1;
    let met = 0;
    for (let vertex = end; vertex.level >= 0;) {
      while (near >= 0 && known[near]!.index > vertex.index) near--;
      if (near >= 0 && isSame(known[near]!, vertex)) {
        met = near;
        break;
      }
      const { level } = vertex;
      const { index, x, wide } = this.#seenFrom(vertex, starts, level);
      fresh.push((vertex = { index, x, level: wide ? ENTERED : level - 1 }));
      // A wide start was entered from the sample before it, which is one level nearer to the beginning.
      if (wide) fresh.push((vertex = this.endAt(index - 1, level - 2)));
    }
    const path = known.slice(0, met);
    for (let i = fresh.length - 1; i >= 0; i--) {
      const { index, level } = fresh[i]!;
      // The first is exact, whatever was rounded on the way.
      const x = index === 0 ? this.#x[0]! : fresh[i]!.x;
      const worst = this.#worstTo(index, x, path[path.length - 1]);
      path.push({ index, x, v: this.measure(x, index), level, worst });
    }
    return path;
  }

  /** The largest distance of a path, at any sample up to a vertex, with the vertex before it. */
  #worstTo(last: number, goal: Travel, from: Vertex | undefined): number {
    if (!from) return 0;
    const { t } = this.#columns;
    const x = this.#x;
    const { index: first, x: base } = from;
    const start = t[first]!;
    const slope = (goal - base) / (t[last]! - start);
    let { worst } = from;
    for (let i = first; i <= last; i++) {
      const off = Math.abs(base + slope * (t[i]! - start) - x[i]!);
      if (off > worst) worst = off;
    }
    return worst;
  }

  #nearest(index: number, low: number, high: number): number {
    return Math.min(Math.max(this.#x[index]!, low), Math.max(low, high));
  }

  /** The start of a level that sees the vertex along a straight line within the tube, its value as near to the samples as can be. */
  #seenFrom(vertex: Step, starts: StartLevels, level: number): { index: number; x: Travel; wide: boolean } {
    const marks = this.#marks;
    const { t, low, high, reachLow, reachHigh } = this.#columns;
    const { places } = starts;
    const firstPlace = starts.from(level);
    const endPlace = starts.to(level);
    // Taken out of the vertex first: it comes in several shapes, and the loops below are long.
    const { index: from, x: goal } = vertex;
    const goalTime = t[from]!;
    let first = from;
    for (let s = firstPlace; s < endPlace; s++) {
      const index = indexOf(places[s]!);
      marks[index] = isWide(places[s]!) ? WIDE : NARROW;
      if (index < first) first = index;
    }
    let steepest = Infinity;
    let shallowest = -Infinity;
    let bestIndex = -1;
    let bestX = 0;
    let bestOff = Infinity;
    for (let i = from - 1; i >= first; i--) {
      const dt = goalTime - t[i]!;
      const mark = marks[i]!;
      if (mark) {
        const wide = mark === WIDE;
        const lowest = Math.max(wide ? low[i]! : reachLow[i]!, goal - steepest * dt);
        const highest = Math.min(wide ? high[i]! : reachHigh[i]!, goal - shallowest * dt);
        const x = this.#nearest(i, lowest, highest);
        const off = Math.abs(x - this.#x[i]!);
        if (lowest <= highest + SLACK && off < bestOff) {
          bestIndex = i;
          bestX = x;
          bestOff = off;
        }
      }
      // Divided only where the wall is nearer than those before.
      if (goal - low[i]! < steepest * dt) steepest = (goal - low[i]!) / dt;
      if (goal - high[i]! > shallowest * dt) shallowest = (goal - high[i]!) / dt;
      if (shallowest > steepest + SLACK) break;
    }
    if (bestIndex < 0) throw new Error(`thinning lost its way back at sample ${from}`);
    const wide = marks[bestIndex] === WIDE;
    for (let s = firstPlace; s < endPlace; s++) marks[indexOf(places[s]!)] = 0;
    return { index: bestIndex, x: bestX, wide };
  }
}
