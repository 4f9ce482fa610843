import {
  lastKeyedNotAfter,
  lastNotAfter,
  travelOf,
  valueOf,
  type Law,
  type Seconds,
  type Travel,
} from '../units/index.js';
import { SHAPES, SHAPE_CODE, type Point } from './point.js';
import { isStraight, partFraction } from './shapes.js';

/**
 * A curve made ready for the audio thread: plain number columns, values in travel. The columns can be sent to
 * another thread as they are. `shape` holds the codes of {@link SHAPE_CODE}.
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

/** Points to columns, values going to travel by the control's law. */
export function columnsOf(points: readonly Point[], law: Law): CurveColumns {
  const n = points.length;
  const columns = {
    t: new Float64Array(n),
    x: new Float64Array(n),
    shape: new Uint8Array(n),
    bend: new Float64Array(n),
    u0: new Float64Array(n),
    u1: new Float64Array(n).fill(1),
  };
  points.forEach((p, i) => {
    columns.t[i] = p.t;
    columns.x[i] = travelOf(law, p.v);
    columns.shape[i] = SHAPE_CODE[holds(p, law) ? 'hold' : isStraight(p.shape, p.bend) ? 'line' : p.shape];
    columns.bend[i] = p.bend;
    if (p.part) [columns.u0[i], columns.u1[i]] = p.part;
  });
  return columns;
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
    const { t, x, shape } = this.columns;
    const i = this.#seek(time);
    if (i < 0) return x[0]!;
    const v = x[i]!;
    if (i === this.#n - 1) return v;
    const kind = shape[i]!;
    if (kind === HOLD) return v;
    const u = (time - t[i]!) / (t[i + 1]! - t[i]!);
    return v + (x[i + 1]! - v) * (kind === LINE ? u : this.#bent(i, u));
  }

  /** The first point after `time`, as an index; the length where there is none. */
  nextPointAfter(time: Seconds): number {
    return this.#seek(time) + 1;
  }

  #bent(i: number, u: number): number {
    const { shape, bend, u0, u1 } = this.columns;
    return partFraction(SHAPES[shape[i]!]!, bend[i]!, u0[i]!, u1[i]!, u);
  }

  /** Moves to the last point not after `time`: one step on where that is enough, else by halving. */
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

/** The fraction of the way to the next point from point i, at t within that segment. */
function fractionAt(points: readonly Point[], i: number, t: Seconds): number {
  const p = points[i]!;
  const next = points[i + 1]!;
  return partFraction(p.shape, p.bend, p.part?.[0] ?? 0, p.part?.[1] ?? 1, (t - p.t) / (next.t - p.t));
}

function valueInSegment(points: readonly Point[], law: Law, i: number, t: Seconds): number {
  if (i < 0) return points[0]!.v;
  const p = points[i]!;
  const next = points[i + 1];
  if (!next || t === p.t || holds(p, law)) return p.v;
  const from = travelOf(law, p.v);
  const to = travelOf(law, next.v);
  return from === to ? p.v : valueOf(law, from + (to - from) * fractionAt(points, i, t));
}

/** The last point not after t, as an index; −1 where all are after. */
export const pointBefore = (points: readonly Point[], t: Seconds): number => lastKeyedNotAfter(points, timeOf, t);
const timeOf = ({ t }: Point): Seconds => t;

/** The curve's value at t in the control's unit; at a step, what the curve leaves it with. `rest` where there are no points. */
export function valueAt(points: readonly Point[], law: Law, rest: number, t: Seconds): number {
  return points.length ? valueInSegment(points, law, pointBefore(points, t), t) : rest;
}

/** The value the curve arrives with at t: before a step at t, else the same as {@link valueAt}. */
export function valueArriving(points: readonly Point[], law: Law, rest: number, t: Seconds): number {
  if (!points.length) return rest;
  let i = pointBefore(points, t);
  while (i > 0 && points[i]!.t === t && points[i - 1]!.t === t) i--;
  if (i < 0) return points[0]!.v;
  if (points[i]!.t < t || i === 0) return valueInSegment(points, law, i, t);
  return holds(points[i - 1]!, law) ? points[i - 1]!.v : points[i]!.v;
}
