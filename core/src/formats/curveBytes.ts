import { Curve, SHAPES, type Columns, type MoreOfPoint } from '../curve/index.js';
import { bytesOfText, textOfBytes } from '../song/text.js';

/**
 * A curve as bytes, little-endian: a version, flags (bent, parts, more), two bytes of nothing, the count n; then its columns
 * one after the other, as float64 times, values, bends and both ends of parts (those that the flags name), shapes as a byte
 * each; and what points say that this program does not know, as JSON: its length, and a list of index and fields.
 */
const VERSION = 2;
const FLAG = { bent: 1, parts: 2, more: 4 } as const;
const HEAD = 8;

/** A curve's bytes: see {@link curveOfBytes}. */
export function bytesOfCurve(curve: Curve): Uint8Array<ArrayBuffer> {
  const columns = [curve.t, curve.v, curve.bend, curve.u0, curve.u1];
  const more = curve.more ? bytesOfText(JSON.stringify([...curve.more])) : null;
  const size = columns.reduce((sum, column) => sum + column.byteLength, HEAD + curve.length);
  const bytes = new Uint8Array(size + (more ? 4 + more.length : 0));
  const view = new DataView(bytes.buffer);
  view.setUint8(0, VERSION);
  const flags = (curve.bend.length ? FLAG.bent : 0) | (curve.u1.length ? FLAG.parts : 0) | (more ? FLAG.more : 0);
  view.setUint8(1, flags);
  view.setUint32(4, curve.length, true);
  let at = HEAD;
  for (const column of columns) {
    bytes.set(new Uint8Array(column.buffer, column.byteOffset, column.byteLength), at);
    at += column.byteLength;
  }
  bytes.set(curve.shape, at);
  at += curve.length;
  if (!more) return bytes;
  view.setUint32(at, more.length, true);
  bytes.set(more, at + 4);
  return bytes;
}

/** Reads {@link bytesOfCurve} back; throws a RangeError where the bytes are no curve: nothing is guessed. */
export function curveOfBytes(bytes: Uint8Array): Curve {
  if (bytes.length < HEAD || bytes[0] !== VERSION) throw new RangeError(`bytes of a curve of version ${bytes[0]}`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const flags = bytes[1]!;
  const n = view.getUint32(4, true);
  if (n === 0) return Curve.EMPTY;
  const floats = 2 + (flags & FLAG.bent ? 1 : 0) + (flags & FLAG.parts ? 2 : 0);
  const end = HEAD + n * (8 * floats + 1);
  if (end > bytes.length) throw new RangeError(`bytes of a curve cut short at ${bytes.length} of ${end}`);
  let at = HEAD;
  const column = (isThere: boolean): Float64Array => {
    if (!isThere) return new Float64Array(0);
    const numbers = new Float64Array(n);
    // Copied, so that it stands where float64 may, in a buffer of its own.
    new Uint8Array(numbers.buffer).set(bytes.subarray(at, at + 8 * n));
    at += 8 * n;
    return numbers;
  };
  const columns = {
    t: column(true),
    v: column(true),
    bend: column((flags & FLAG.bent) > 0),
    u0: column((flags & FLAG.parts) > 0),
    u1: column((flags & FLAG.parts) > 0),
    shape: new Uint8Array(bytes.subarray(at, end)),
  };
  const more = flags & FLAG.more ? moreOf(bytes.subarray(end), n) : null;
  const curve = new Curve({ ...columns, more });
  shapesChecked(curve);
  return curve;
}

/** Shapes, bends and parts are what there can be; times and values are for who knows the control. */
function shapesChecked({ shape, bend, u0, u1 }: Columns): void {
  const isRight =
    areWithin(shape, 0, SHAPES.length - 1) && areWithin(bend, -1, 1) && areWithin(u0, 0, 1) && areWithin(u1, 0, 1);
  if (!isRight) throw new RangeError('bytes of a curve with a shape, bend or part that there is not');
}

function areWithin(column: Float64Array | Uint8Array, least: number, most: number): boolean {
  for (let i = 0; i < column.length; i++) if (!(column[i]! >= least && column[i]! <= most)) return false;
  return true;
}

function moreOf(bytes: Uint8Array, n: number): Map<number, MoreOfPoint> {
  const length = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(0, true);
  const list = JSON.parse(textOfBytes(bytes.subarray(4, 4 + length))) as unknown;
  const isRight = (one: unknown): one is [number, MoreOfPoint] =>
    Array.isArray(one) && Number.isInteger(one[0]) && one[0] >= 0 && one[0] < n && isFields(one[1]);
  if (!Array.isArray(list) || !list.every(isRight)) throw new RangeError('bytes of a curve with fields of no point');
  return new Map(list);
}

const isFields = (fields: unknown): boolean =>
  fields !== null && typeof fields === 'object' && !['t', 'v', 'shape', 'bend', 'part'].some((key) => key in fields);
