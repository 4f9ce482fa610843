import type { Seconds } from '../units/index.js';
import { SHAPES, SHAPE_CODE, type Point } from './point.js';

/** What a point says besides what this program knows of points: it is kept with it (rules, 9). */
export type MoreOfPoint = Readonly<Record<string, unknown>>;

/**
 * The columns of a curve, n long; `bend`, `u0` and `u1` are empty where no point is bent, or none is a part of a shape.
 * `shape` holds the codes of {@link SHAPE_CODE}. Each column has a buffer of its own.
 */
export type Columns = Pick<Curve, 't' | 'v' | 'shape' | 'bend' | 'u0' | 'u1' | 'more'>;

const NONE = new Float64Array(0);

/**
 * The points of one layer of a lane, in order of time, as columns: values in the layer's own unit. It never changes; two
 * are the same curve exactly where they are one object, or {@link sameCurve} says so. As JSON it is a list of points.
 */
export class Curve implements Iterable<Point> {
  static readonly EMPTY = new Curve({
    t: NONE,
    v: NONE,
    shape: new Uint8Array(0),
    bend: NONE,
    u0: NONE,
    u1: NONE,
    more: null,
  });
  readonly t: Float64Array;
  readonly v: Float64Array;
  readonly shape: Uint8Array;
  readonly bend: Float64Array;
  readonly u0: Float64Array;
  readonly u1: Float64Array;
  /** By the index of a point; null where no point has more to say. */
  readonly more: ReadonlyMap<number, MoreOfPoint> | null;

  constructor({ t, v, shape, bend, u0, u1, more }: Columns) {
    this.t = t;
    this.v = v;
    this.shape = shape;
    this.bend = bend;
    this.u0 = u0;
    this.u1 = u1;
    this.more = more;
  }

  /** A curve of points; they are in order of time. */
  static of(points: Iterable<Point>): Curve {
    const maker = new CurveMaker(Array.isArray(points) ? points.length : 0);
    for (const point of points) maker.add(point);
    return maker.make();
  }

  /** How many points it has. */
  get length(): number {
    return this.t.length;
  }

  /** The bend of a point's segment; 0 is none. */
  bendOf(i: number): number {
    return this.bend.length ? this.bend[i]! : 0;
  }

  /** The share of its shape that a point's segment begins with. */
  partFrom(i: number): number {
    return this.u0.length ? this.u0[i]! : 0;
  }

  /** The share of its shape that a point's segment ends with. */
  partTo(i: number): number {
    return this.u1.length ? this.u1[i]! : 1;
  }

  /** A point by itself; −1 is the last. Undefined where there is none. */
  at(index: number): Point | undefined {
    const i = index < 0 ? index + this.length : index;
    return i >= 0 && i < this.length ? this.point(i) : undefined;
  }

  /** A point that is there, by itself. */
  point(i: number): Point {
    const t: Seconds = this.t[i]!;
    const point = { t, v: this.v[i]!, shape: SHAPES[this.shape[i]!]!, bend: this.bendOf(i) };
    const [u0, u1] = [this.partFrom(i), this.partTo(i)];
    const more = this.more?.get(i);
    if (!more && u0 === 0 && u1 === 1) return point;
    return { ...more, ...point, ...(u0 === 0 && u1 === 1 ? {} : { part: [u0, u1] as const }) };
  }

  *[Symbol.iterator](): Generator<Point, void> {
    for (let i = 0; i < this.length; i++) yield this.point(i);
  }

  /** Some of its points, from one up to but not at another, as a curve. */
  slice(from: number, to = this.length): Curve {
    if (from <= 0 && to >= this.length) return this;
    const maker = new CurveMaker(Math.max(0, to - from));
    maker.copy(this, from, to);
    return maker.make();
  }

  /** The list of its points, as documents and edits have them in JSON. */
  toJSON(): Point[] {
    return [...this];
  }
}

const isKnown = (field: string): boolean =>
  field === 't' || field === 'v' || field === 'shape' || field === 'bend' || field === 'part';

/** What a point says that this program does not know; null where it says no such thing. */
function moreOf(point: Pick<Point, 't' | 'v'> & Partial<Point>): MoreOfPoint | null {
  for (const field in point)
    if (!isKnown(field)) {
      const { t: _t, v: _v, shape: _shape, bend: _bend, part: _part, ...more } = point;
      return more as MoreOfPoint;
    }
  return null;
}

/** Puts a curve together, point after point. */
export class CurveMaker {
  #length = 0;
  #t: Float64Array;
  #v: Float64Array;
  #shape: Uint8Array;
  #bend: Float64Array = NONE;
  #u0: Float64Array = NONE;
  #u1: Float64Array = NONE;
  #more: Map<number, MoreOfPoint> | null = null;

  /** `room`: how many points there may be before it has to make more room. */
  constructor(room = 0) {
    this.#t = new Float64Array(room);
    this.#v = new Float64Array(room);
    this.#shape = new Uint8Array(room);
  }

  get length(): number {
    return this.#length;
  }

  /** When a point stands, counted from the end: 1 is the last. −∞ where there are not so many. */
  timeFromEnd(back: number): Seconds {
    return back <= this.#length ? this.#t[this.#length - back]! : -Infinity;
  }

  /** The value of the last point. */
  get lastValue(): number {
    return this.#v[this.#length - 1]!;
  }

  add(point: Point): void {
    this.addSparse(point);
  }

  /** Adds a point as it may come from outside: a straight line where no shape is said, bent by half for an `s` (rules, 9). */
  addSparse(point: Pick<Point, 't' | 'v'> & Partial<Point>): void {
    const { t, v, shape = 'line', bend = shape === 's' ? 0.5 : 0, part } = point;
    const i = this.#put(t, v, SHAPE_CODE[shape]);
    if (bend) this.#setBend(i, bend);
    if (part) this.#setPart(i, part[0], part[1]);
    const more = moreOf(point);
    if (more) (this.#more ??= new Map()).set(i, more);
  }

  /** Adds a point with a straight segment after it. */
  addLine(t: Seconds, v: number): void {
    this.#put(t, v, SHAPE_CODE.line);
  }

  /** Adds a point of another curve, as it is or at another time and value. */
  addFrom(curve: Curve, k: number, t = curve.t[k]!, v = curve.v[k]!): void {
    const i = this.#put(t, v, curve.shape[k]!);
    if (curve.bendOf(k)) this.#setBend(i, curve.bendOf(k));
    if (curve.u0.length && !(curve.u0[k] === 0 && curve.u1[k] === 1)) this.#setPart(i, curve.u0[k]!, curve.u1[k]!);
    const more = curve.more?.get(k);
    if (more) (this.#more ??= new Map()).set(i, more);
  }

  /** Adds points of another curve, from one up to but not at another. */
  copy(curve: Curve, from: number, to: number): void {
    const first = Math.max(0, from);
    const end = Math.min(to, curve.length);
    if (end <= first) return;
    const at = this.#length;
    this.#length += end - first;
    if (this.#length > this.#t.length) this.#grow(this.#length);
    this.#t.set(curve.t.subarray(first, end), at);
    this.#v.set(curve.v.subarray(first, end), at);
    this.#shape.set(curve.shape.subarray(first, end), at);
    if (curve.bend.length) this.#bends().set(curve.bend.subarray(first, end), at);
    if (curve.u1.length) {
      this.#parts();
      this.#u0.set(curve.u0.subarray(first, end), at);
      this.#u1.set(curve.u1.subarray(first, end), at);
    }
    for (const [k, more] of curve.more ?? [])
      if (k >= first && k < end) (this.#more ??= new Map()).set(at + k - first, more);
  }

  /** Another maker that has come as far. */
  clone(): CurveMaker {
    const clone = new CurveMaker(this.#t.length);
    clone.copy(this.make(), 0, this.#length);
    return clone;
  }

  /** Takes the last point away again. */
  pop(): void {
    this.#length--;
    this.#more?.delete(this.#length);
    if (this.#bend.length) this.#bend[this.#length] = 0;
    if (!this.#u1.length) return;
    this.#u0[this.#length] = 0;
    this.#u1[this.#length] = 1;
  }

  /**
   * The curve of all that was added, in the maker's own columns: for one that is read and thrown away. Nothing is added to this maker
   * after it.
   */
  take(): Curve {
    const n = this.#length;
    const cut = <C extends Float64Array | Uint8Array>(column: C): C =>
      column.length ? (column.subarray(0, n) as C) : column;
    return new Curve({
      t: cut(this.#t),
      v: cut(this.#v),
      shape: cut(this.#shape),
      bend: cut(this.#bend),
      u0: cut(this.#u0),
      u1: cut(this.#u1),
      more: this.#more,
    });
  }

  /** The curve of all that was added. */
  make(): Curve {
    const n = this.#length;
    if (n === 0) return Curve.EMPTY;
    const isBent = this.#bend.some((bend, i) => i < n && bend !== 0);
    const hasPart = this.#u1.some((u1, i) => i < n && !(this.#u0[i] === 0 && u1 === 1));
    return new Curve({
      t: this.#t.slice(0, n),
      v: this.#v.slice(0, n),
      shape: this.#shape.slice(0, n),
      bend: isBent ? this.#bend.slice(0, n) : NONE,
      u0: hasPart ? this.#u0.slice(0, n) : NONE,
      u1: hasPart ? this.#u1.slice(0, n) : NONE,
      more: this.#more?.size ? new Map(this.#more) : null,
    });
  }

  #put(t: Seconds, v: number, shape: number): number {
    const i = this.#length++;
    if (i >= this.#t.length) this.#grow(this.#length);
    this.#t[i] = t;
    this.#v[i] = v;
    this.#shape[i] = shape;
    return i;
  }

  #setBend(i: number, bend: number): void {
    this.#bends()[i] = bend;
  }

  #setPart(i: number, u0: number, u1: number): void {
    this.#parts();
    this.#u0[i] = u0;
    this.#u1[i] = u1;
  }

  #bends(): Float64Array {
    if (!this.#bend.length) this.#bend = new Float64Array(this.#t.length);
    return this.#bend;
  }

  #parts(): void {
    if (this.#u1.length) return;
    this.#u0 = new Float64Array(this.#t.length);
    this.#u1 = new Float64Array(this.#t.length).fill(1);
  }

  /** Makes room for so many points at least. */
  #grow(least: number): void {
    const room = Math.max(16, least, 2 * this.#t.length);
    const larger = (column: Float64Array, fill = 0): Float64Array => {
      const grown = new Float64Array(room).fill(fill);
      grown.set(column);
      return grown;
    };
    this.#t = larger(this.#t);
    this.#v = larger(this.#v);
    if (this.#bend.length) this.#bend = larger(this.#bend);
    if (this.#u1.length) {
      this.#u0 = larger(this.#u0);
      this.#u1 = larger(this.#u1, 1);
    }
    const shape = new Uint8Array(room);
    shape.set(this.#shape);
    this.#shape = shape;
  }
}

const sameColumn = (a: Float64Array | Uint8Array, b: Float64Array | Uint8Array): boolean =>
  a.length === b.length && a.every((x, i) => x === b[i]);

/** Whether two curves have the same points, to the last bit. */
export const sameCurve = (a: Curve, b: Curve): boolean =>
  a === b ||
  (sameColumn(a.t, b.t) &&
    sameColumn(a.v, b.v) &&
    sameColumn(a.shape, b.shape) &&
    sameColumn(a.bend, b.bend) &&
    sameColumn(a.u0, b.u0) &&
    sameColumn(a.u1, b.u1) &&
    JSON.stringify([...(a.more ?? [])]) === JSON.stringify([...(b.more ?? [])]));
