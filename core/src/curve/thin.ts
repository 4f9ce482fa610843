import type { Seconds, Travel } from '../units/index.js';
import { ReachTube, type Samples, type Measure, type Vertex } from './reachTube.js';
import { StartLevels, indexOf, isWide } from './startLevels.js';

export type { Samples } from './reachTube.js';

/** What thinning gives back: vertices, and how far they ever are from the samples, in travel. */
export type Thinned = {
  readonly t: Seconds[];
  readonly x: Travel[];
  readonly maxDeviation: number;
};

export type ThinLimits = { readonly exactSteps: number; readonly fewStarts: number };

/** How much work thinning may do. Up to `exactSteps` it tries every start of every segment, past it a few. */
export const THIN_LIMITS: ThinLimits = { exactSteps: 40_000, fewStarts: 2 };

/** `measure`: what a vertex is by its owner’s own measure. */
export type ThinOptions = { readonly limits?: ThinLimits; readonly measure?: Measure };

/** A stream as it was at a moment: see {@link ThinStream.mark}. */
export type ThinMark = {
  readonly samples: number;
  readonly levels: number;
  readonly reached: number;
  readonly steps: number;
};

/**
 * Thins a run of samples that come one after the other, to the fewest vertices it finds that never deviate by more than
 * `tolerance` (travel) at any time, keeping both ends exactly (rules, 7). Vertices stand at times of samples, their values
 * are free. What is found does not depend on when it is {@link settle}d.
 *
 * Minimum-link paths through the tube of ±tolerance, after Imai & Iri (1988): level k holds, for every sample, the
 * values a vertex there can have after k segments. Each level is grown from every place of the level before, and from
 * the level before that with one segment spent on a free choice of value (in long runs from a few places), then the path is
 * read off backwards, each value chosen nearest to the samples. A level that ends before the last sample there is stays as it
 * is, whatever comes: so all but the last can be grown while the hand still moves.
 */
export class ThinStream {
  readonly limits: ThinLimits;
  readonly #tube: ReachTube;
  readonly #levels = new StartLevels();
  #reached = 0;
  /** A path to the last level that is settled. */
  #path: readonly Vertex[] = [];
  #steps = 0;
  /** The level that comes next is not tried before there are so many samples. */
  #tryAt = 0;

  constructor(
    readonly tolerance: number,
    { limits = THIN_LIMITS, measure }: ThinOptions = {},
  ) {
    this.limits = limits;
    this.#tube = new ReachTube(tolerance, measure);
    this.#levels.add(0);
    this.#levels.close();
  }

  /** How many samples have come. */
  get length(): number {
    return this.#tube.length;
  }

  /** When a sample stands. */
  timeOf(index: number): Seconds {
    return this.#tube.timeOf(index);
  }

  /** What a sample is. */
  travelOf(index: number): Travel {
    return this.#tube.travelOf(index);
  }

  /** A sample comes; its time is after all before it. */
  push(t: Seconds, x: Travel): void {
    this.#tube.push(t, x);
    if (this.#tube.length === 1) this.#tube.begin(0);
  }

  /** All samples of a run come at once, and none after. */
  take(samples: Samples): void {
    this.#tube.take(samples);
    if (this.#tube.length > 0) this.#tube.begin(0);
  }

  /** Grows every level that what is still to come can't change. A level that takes long is tried again at twice its length. */
  settle(): void {
    if (this.tolerance <= 0) return;
    const { length } = this.#levels;
    while (this.#tube.length >= this.#tryAt && this.#tube.length > this.#reached + 1)
      if (!this.#grow(false)) {
        this.#tryAt = 2 * this.#tube.length - this.#reached;
        break;
      }
    if (this.#levels.length > length) this.#readPath();
  }

  /** Reads the path to where the last level begins: that of all samples will soon come to it, and go the same way from there. */
  #readPath(): void {
    const levels = this.#levels;
    const level = levels.length - 1;
    const start = indexOf(levels.places[levels.from(level)]!);
    this.#path = this.#tube.pathBack(levels, this.#tube.endAt(start, level - 1), this.#path);
  }

  /** What is kept of the samples that have come, the last of them exactly. More may come only after {@link back}. */
  finish(): readonly Vertex[] {
    const tube = this.#tube;
    const n = tube.length;
    if (n <= 2 || this.tolerance <= 0) return tube.samples();
    tube.pin(n - 1);
    while (this.#reached < n - 1) this.#grow(true);
    const last = { index: n - 1, x: tube.travelOf(n - 1), level: this.#levels.length - 2 };
    return tube.pathBack(this.#levels, last, this.#path);
  }

  /** The stream as it is now, to come {@link back} to after a {@link finish}. */
  mark(): ThinMark {
    return { samples: this.length, levels: this.#levels.length, reached: this.#reached, steps: this.#steps };
  }

  /** Forgets all that came since a mark. */
  back(mark: ThinMark): void {
    this.#levels.truncate(mark.levels);
    this.#reached = mark.reached;
    this.#steps = mark.steps;
    this.#tube.truncate(mark.samples);
  }

  /** Grows the next level; false where it may still change by samples to come, unless these are all (`isEnd`). */
  #grow(isEnd: boolean): boolean {
    const tube = this.#tube;
    const levels = this.#levels;
    const reached = this.#reached;
    const first = levels.from(levels.length - 1);
    const end = levels.to(levels.length - 1);
    let steps = this.#steps;
    let far = reached;
    for (let s = first; s < end; s++) {
      const place = levels.places[s]!;
      const to = tube.grow(place, reached, far);
      if (!isEnd && to === tube.length - 1) return false;
      steps += to - indexOf(place);
      if (to > far) far = to;
    }
    const few = steps > this.limits.exactSteps;
    addStarts(levels, reached + 1, far, few ? this.limits.fewStarts : Infinity);
    for (let s = first; s < end && !few; s++) {
      const place = levels.places[s]!;
      if (place > 0 && !isWide(place)) levels.add(~place);
    }
    levels.close();
    this.#reached = far;
    this.#steps = steps;
    return true;
  }
}

/** Thins a whole run of samples: see {@link ThinStream}. */
export function thinRun(samples: Samples, tolerance: number, limits: ThinLimits = THIN_LIMITS): Thinned {
  const stream = new ThinStream(tolerance, { limits });
  stream.take(samples);
  const vertices = stream.finish();
  return {
    t: vertices.map(({ index }) => samples.t[index]!),
    x: vertices.map(({ x }) => x),
    maxDeviation: vertices.at(-1)?.worst ?? 0,
  };
}

/**
 * How far behind the last the other of two starts stands: so many samples, and such a share of all. Of what was tried with rides
 * from rough to smooth, 7 to 345 samples a segment, this keeps the fewest points for the work.
 */
const BEHIND = { samples: 2.5, share: 0.17 } as const;

/** Adds places to go on from: all of first … last, or a few of them, thicker towards the last. */
function addStarts(levels: StartLevels, first: number, last: number, most: number): void {
  const all = last - first + 1;
  if (all <= most) {
    for (let index = last; index >= first; index--) levels.add(index);
    return;
  }
  levels.add(last);
  let before = last;
  for (let i = 1; i < most; i++) {
    const behind = Math.round((BEHIND.samples + BEHIND.share * all) * ((2 * i) / most) ** 2);
    const index = Math.max(first, last - behind);
    if (index === before) continue;
    levels.add(index);
    before = index;
  }
}
