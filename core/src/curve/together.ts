import {
  LEVEL_CORNERS_DB,
  MAX_LEVEL_DB,
  SILENCE_DB,
  clamp,
  lastNotAfter,
  rangeOf,
  type Db,
  type Law,
  type Seconds,
} from '../units/index.js';
import type { LaneCurve } from './lift.js';
import { holdsAt, valueInSegment } from './lookup.js';
import { SHAPE_CODE } from './point.js';

/** The foot of the level law: below it a level goes straight in gain, not in dB. */
export const FLOOR_DB = LEVEL_CORNERS_DB[0]!;

/** What is heard of a base of a law and its trim: of a level silence stays silence and +12 dB is the most, a parameter stays in its own range. */
export const trimmedDb = (law: Law, base: Db, trim: Db): Db => heldBy(law, [base, trim]);

/** The sum of levels in dB as one lane can hold it: silence in any of them is silence, +12 dB is the most. */
export const heldDb = (levels: readonly Db[]): Db =>
  levels.some((db) => db <= SILENCE_DB)
    ? SILENCE_DB
    : clamp(
        levels.reduce((sum, db) => sum + db, 0),
        SILENCE_DB,
        MAX_LEVEL_DB,
      );

/** The sum of values in dB as a lane of a law can hold it: a level's as {@link heldDb} has it, a parameter's within its own range. */
function heldBy(law: Law, levels: readonly Db[]): Db {
  if (law.kind === 'level') return heldDb(levels);
  const { min, max } = rangeOf(law);
  return clamp(
    levels.reduce((sum, db) => sum + db, 0),
    min,
    max,
  );
}

/** Where values of a law turn from one straight line of the throw into another. */
export const cornersOf = (law: Law): readonly Db[] =>
  law.kind === 'level' ? LEVEL_CORNERS_DB : Object.values(rangeOf(law));

function total(levels: Float64Array): Db {
  let sum = 0;
  for (const db of levels) sum += db;
  return sum;
}

/** Whether a corner lies between two values, and at neither. */
export const isBetween = (corner: Db, v: Db, w: Db): boolean =>
  Math.min(v, w) < corner - 1e-9 && Math.max(v, w) > corner + 1e-9;

/** Whether any corner of a law lies between two values. */
export function goesOverCorner(law: Law, v: Db, w: Db): boolean {
  for (const corner of cornersOf(law)) if (isBetween(corner, v, w)) return true;
  return false;
}

/** Curves over an interval in which none of them has a point: each is on one segment throughout, and looked up without a search. */
export class Together {
  readonly #at: Int32Array;
  readonly #now: Db[];
  /** What each begins and ends the interval with. */
  readonly #first: Float64Array;
  readonly #last: Float64Array;
  /** Whether each may cross a corner on a segment, by that segment's first point: asked once for all intervals on it. */
  readonly #crosses: Int8Array;
  readonly #crossesOn: Int32Array;
  /** Where the interval ends that was gone to last. */
  #end = NaN;

  constructor(
    private readonly all: readonly LaneCurve[],
    private readonly law: Law,
  ) {
    this.#at = new Int32Array(all.length);
    this.#now = all.map(() => 0);
    this.#first = new Float64Array(all.length);
    this.#last = new Float64Array(all.length);
    this.#crosses = new Int8Array(all.length);
    this.#crossesOn = new Int32Array(all.length).fill(-2);
  }

  /** Goes to an interval: what they come to at its beginning and its end. */
  go(a: Seconds, b: Seconds): void {
    const isNext = a === this.#end;
    for (let c = 0; c < this.all.length; c++) {
      const was = this.#at[c]!;
      this.#beginOne(c, a);
      // On one segment it begins with what the interval before ended with.
      this.#first[c] = isNext && this.#at[c] === was ? this.#last[c]! : this.valueOf(c, a);
      this.#last[c] = this.#arriving(c, b);
    }
    this.#end = b;
  }

  /** Their sum at the beginning of the interval that was gone to. */
  get first(): Db {
    return total(this.#first);
  }

  /** Their sum as they arrive at its end. */
  get last(): Db {
    return total(this.#last);
  }

  /** Goes to the interval that begins at a time: most often the next one, whose points are at hand. */
  begin(a: Seconds): void {
    for (let c = 0; c < this.all.length; c++) this.#beginOne(c, a);
  }

  #beginOne(c: number, a: Seconds): void {
    const { t } = this.all[c]!.points;
    const next = this.#at[c]! + 1;
    if (next > 0 && t[next - 1]! <= a && !(t[next]! <= a)) return;
    const isNext = t[next]! <= a && !(t[next + 1]! <= a);
    this.#at[c] = isNext ? next : lastNotAfter(t, a);
  }

  /** Whether one of them may go over a corner of its law on the segment it is on: what goes up or down alone goes over none else. */
  mayCross(c: number): boolean {
    const i = this.#at[c]!;
    if (this.#crossesOn[c] !== i) {
      this.#crossesOn[c] = i;
      this.#crosses[c] = Number(this.#mayCrossFrom(c, i));
    }
    return this.#crosses[c] === 1;
  }

  #mayCrossFrom(c: number, i: number): boolean {
    const { points, law } = this.all[c]!;
    if (law.kind !== 'level' || i < 0 || i + 1 >= points.length || holdsAt(points, i, law)) return false;
    return goesOverCorner(law, points.v[i]!, points.v[i + 1]!);
  }

  /** What one of them is at within the interval. */
  valueOf(c: number, t: Seconds): Db {
    const { points, law, rest } = this.all[c]!;
    return points.length ? valueInSegment(points, law, this.#at[c]!, t) : rest;
  }

  /** What one of them arrives at the interval's end with. */
  #arriving(c: number, b: Seconds): Db {
    const { points, law } = this.all[c]!;
    const i = this.#at[c]!;
    const isOn = i >= 0 && i + 1 < points.length && points.t[i + 1] === b && !holdsAt(points, i, law);
    return isOn ? points.v[i + 1]! : this.valueOf(c, b);
  }

  #look(t: Seconds, end: Seconds): readonly Db[] {
    for (let c = 0; c < this.#now.length; c++) this.#now[c] = t === end ? this.#arriving(c, t) : this.valueOf(c, t);
    return this.#now;
  }

  /** Their sum at a time of the interval, which ends at `end`. */
  raw(t: Seconds, end: Seconds): Db {
    let sum = 0;
    for (const db of this.#look(t, end)) sum += db;
    return sum;
  }

  /** Their sum as the lane that takes it can hold it. */
  held(t: Seconds, end: Seconds): Db {
    return heldBy(this.law, this.#look(t, end));
  }

  /** Whether each goes straight in dB over the interval that was gone to, so that their sum does, too. Corners of its law are none within it. */
  get isStraight(): boolean {
    for (let c = 0; c < this.all.length; c++) {
      const { points, law } = this.all[c]!;
      if (law.kind !== 'level' && law.kind !== 'linear' && law.kind !== 'trim') return false;
      const i = this.#at[c]!;
      const isLine = i < 0 || i + 1 >= points.length || points.shape[i] === SHAPE_CODE.line || holdsAt(points, i, law);
      if (!isLine || (law.kind === 'level' && !(this.#first[c]! > FLOOR_DB && this.#last[c]! > FLOOR_DB))) return false;
    }
    return true;
  }
}
