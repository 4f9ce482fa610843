import { lastNotAfter, travelOf, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { Curve } from './curve.js';
import { SHAPES, SHAPE_CODE, type Point } from './point.js';
import { BEND, FROM, PART, SHARE, TO, partInPlace } from './shapes.js';

/**
 * A curve made ready to be read: values in travel, and `shape` saying whether a segment holds or is straight, whatever
 * the points say. The columns can be sent to another thread as they are; those that need not be other ones are the
 * curve's own (see `Columns`: `bend`, `u0` and `u1` may be empty).
 */
export type CurveColumns = {
  readonly t: Float64Array;
  readonly x: Float64Array;
  readonly shape: Uint8Array;
  readonly bend: Float64Array;
  readonly u0: Float64Array;
  readonly u1: Float64Array;
};

const { line: LINE, hold: HOLD } = SHAPE_CODE;

/** Whether the segment after a point holds: a switch has no lines, whatever its points say (rules, 1). */
export const holds = (point: Point, law: Law): boolean => point.shape === 'hold' || law.kind === 'switch';

/** {@link holds} of a curve's point. */
export const holdsAt = (curve: Curve, i: number, law: Law): boolean => curve.shape[i] === HOLD || law.kind === 'switch';

const NOTHING: CurveColumns = { ...Curve.EMPTY, x: new Float64Array(0) };
/** Curves that were made ready, each for one law: a curve belongs to a layer, which has one. */
const ready = new WeakMap<Curve, { readonly law: Law; readonly columns: CurveColumns }>();

/** A curve made ready to be read, values going to travel by the control's law. Made once for as long as it is kept. */
export function columnsOf(curve: Curve, law: Law): CurveColumns {
  if (!curve.length) return NOTHING;
  const known = ready.get(curve);
  if (known?.law === law) return known.columns;
  const columns = travelColumns(curve, law);
  ready.set(curve, { law, columns });
  return columns;
}

function travelColumns(curve: Curve, law: Law): CurveColumns {
  const n = curve.length;
  const x = new Float64Array(n);
  const shape = new Uint8Array(n);
  for (let i = 0; i < n; i++) {
    x[i] = travelOf(law, curve.v[i]!);
    const code = curve.shape[i]!;
    if (holdsAt(curve, i, law)) shape[i] = HOLD;
    else shape[i] = code !== LINE && curve.bendOf(i) === 0 ? LINE : code;
  }
  const { t, bend, u0, u1 } = curve;
  return { t, x, shape, bend, u0, u1 };
}

/** Travel at a time that lies in the segment after point i; −1 is before the first. */
export function travelIn(columns: CurveColumns, i: number, time: Seconds): Travel {
  const { t, x, shape } = columns;
  if (i < 0) return x[0]!;
  const from = x[i]!;
  const kind = shape[i]!;
  if (kind === HOLD || i === t.length - 1) return from;
  const u = (time - t[i]!) / (t[i + 1]! - t[i]!);
  return from + (x[i + 1]! - from) * (kind === LINE ? u : bentFraction(columns, i, u));
}

/** Whether the segment after point i is neither held nor straight. */
const isBentAt = ({ t, shape }: CurveColumns, i: number): boolean =>
  i >= 0 && i < t.length - 1 && shape[i]! !== HOLD && shape[i]! !== LINE;

/** {@link travelIn} of a bent segment, in place as {@link CurveReader.travelInto} has it. */
function bentTravelInto(columns: CurveColumns, i: number, numbers: Float64Array, place: number): void {
  const { t, x } = columns;
  PART[SHARE] = (numbers[place]! - t[i]!) / (t[i + 1]! - t[i]!);
  bentInPlace(columns, i);
  numbers[place] = x[i]! + (x[i + 1]! - x[i]!) * PART[SHARE]!;
}

/**
 * Reads a curve at any time: O(1) amortised while time moves forward, O(log n) after a jump.
 * Allocates nothing after its making.
 */
export class CurveReader {
  #at = -1;
  readonly #n: number;

  constructor(readonly columns: CurveColumns) {
    this.#n = columns.t.length;
  }

  /** How many points there are; with none there is nothing to read, and the control rests. */
  get length(): number {
    return this.#n;
  }

  /** Travel at t. The curve must have a point. */
  travelAt(time: Seconds): Travel {
    return travelIn(this.columns, this.#seek(time), time);
  }

  /**
   * The same in place: the number at a place among others is the time, and becomes the travel. For the audio thread, where a number
   * that a call takes or gives back may be a new thing in memory.
   */
  travelInto(numbers: Float64Array, place: number): void {
    const i = this.#seekIn(numbers, place);
    const { columns } = this;
    if (isBentAt(columns, i)) return bentTravelInto(columns, i, numbers, place);
    const { t, x, shape } = columns;
    if (i < 0) numbers[place] = x[0]!;
    else if (shape[i]! === HOLD || i === t.length - 1) numbers[place] = x[i]!;
    else numbers[place] = x[i]! + ((x[i + 1]! - x[i]!) * (numbers[place]! - t[i]!)) / (t[i + 1]! - t[i]!);
  }

  /** The point before the time that was read last, if the curve goes straight from there or holds; −1 before the first; −2 where it bends. */
  get straight(): number {
    return isBentAt(this.columns, this.#at) ? -2 : this.#at;
  }

  /** The first point after the time at a place among numbers, as an index; the length where there is none. */
  nextPointAfter(numbers: Float64Array, place: number): number {
    return this.#seekIn(numbers, place) + 1;
  }

  /** {@link CurveReader.#seek} to the time at a place among numbers. */
  #seekIn(numbers: Float64Array, place: number): number {
    const { t } = this.columns;
    let i = this.#at;
    if (i < 0 || t[i]! <= numbers[place]!) {
      for (let steps = 0; steps < 4; steps++) {
        if (i + 1 >= this.#n || t[i + 1]! > numbers[place]!) return (this.#at = i);
        i++;
      }
    }
    return (this.#at = lastNotAfter(t, numbers[place]!));
  }

  /** Moves to the last point not after a time: one step on where that is enough, else by halving. */
  #seek(time: Seconds): number {
    const { t } = this.columns;
    let i = this.#at;
    if (i < 0 || t[i]! <= time) {
      for (let steps = 0; steps < 4; steps++) {
        if (i + 1 >= this.#n || t[i + 1]! > time) return (this.#at = i);
        i++;
      }
    }
    return (this.#at = lastNotAfter(t, time));
  }
}

type Bends = Pick<CurveColumns, 'shape' | 'bend' | 'u0' | 'u1'>;

/** The fraction of the way to the next point after the share u of the time to it. */
function bentFraction(columns: Bends, i: number, u: number): number {
  PART[SHARE] = u;
  bentInPlace(columns, i);
  return PART[SHARE]!;
}

/** {@link bentFraction} of the share in `PART`, in place. */
function bentInPlace({ shape, bend, u0, u1 }: Bends, i: number): void {
  const isPart = u1.length > 0;
  PART[BEND] = bend.length ? bend[i]! : 0;
  PART[FROM] = isPart ? u0[i]! : 0;
  PART[TO] = isPart ? u1[i]! : 1;
  partInPlace(SHAPES[shape[i]!]!);
}

/** The value at t of a curve with points, which is on the segment from point i then (−1 before the first). */
export function valueInSegment(curve: Curve, law: Law, i: number, t: Seconds): number {
  const v = curve.v[Math.max(0, i)]!;
  if (i < 0 || i === curve.length - 1 || t === curve.t[i] || holdsAt(curve, i, law)) return v;
  const from = travelOf(law, v);
  const to = travelOf(law, curve.v[i + 1]!);
  if (from === to) return v;
  const u = (t - curve.t[i]!) / (curve.t[i + 1]! - curve.t[i]!);
  return valueOf(law, from + (to - from) * bentFraction(curve, i, u));
}

/** The last point not after t, as an index; −1 where all are after. */
export const pointBefore = (curve: Curve, t: Seconds): number => lastNotAfter(curve.t, t);

/** The curve's value at t in the control's unit; at a step, what the curve leaves it with. `rest` where there are no points. */
export function valueAt(curve: Curve, law: Law, rest: number, t: Seconds): number {
  return curve.length ? valueInSegment(curve, law, pointBefore(curve, t), t) : rest;
}

/** The value the curve arrives with at t: before a step at t, else the same as {@link valueAt}. */
export function valueArriving(curve: Curve, law: Law, rest: number, t: Seconds): number {
  if (!curve.length) return rest;
  let i = pointBefore(curve, t);
  while (i > 0 && curve.t[i] === t && curve.t[i - 1] === t) i--;
  if (i < 0) return curve.v[0]!;
  if (curve.t[i]! < t || i === 0) return valueInSegment(curve, law, i, t);
  return holdsAt(curve, i - 1, law) ? curve.v[i - 1]! : curve.v[i]!;
}
