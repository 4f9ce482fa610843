import { Curve, SHAPES, type Point } from '@sure-hand/core/curve';
import { bytesOfCurve, curveOfBytes } from '@sure-hand/core/formats';

const asBlob = (bytes: Uint8Array<ArrayBuffer>): Buffer => Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length);

/** A curve as it is kept. */
export const blobOfCurve = (curve: Curve): Buffer => asBlob(bytesOfCurve(curve));

/** The first version of a curve that was kept, before curves were columns. */
const POINT_AFTER_POINT = 1;
const BENT = 4;
const PART = 8;

/** Reads a curve as it is kept, or was by an earlier version; throws where the bytes are of another version or cut short. */
export const curveOfBlob = (blob: Buffer): Curve =>
  blob[0] === POINT_AFTER_POINT ? curveOfPoints(blob) : curveOfBytes(blob);

/**
 * The count, then for each point a byte of flags (shape in the low two bits, whether it is bent, whether it is a part), its
 * time and value as float64, and its bend and part where it has them.
 */
function curveOfPoints(blob: Buffer): Curve {
  const points: Point[] = [];
  let at = 5;
  for (let i = blob.readUInt32LE(1); i > 0; i--) {
    const flags = blob.readUInt8(at);
    const shape = SHAPES[flags & 3]!;
    const t = blob.readDoubleLE(at + 1);
    const v = blob.readDoubleLE(at + 9);
    at += 17;
    const bend = flags & BENT ? blob.readDoubleLE(at) : 0;
    if (flags & BENT) at += 8;
    if (flags & PART) {
      points.push({ t, v, shape, bend, part: [blob.readDoubleLE(at), blob.readDoubleLE(at + 8)] });
      at += 16;
    } else points.push({ t, v, shape, bend });
  }
  return Curve.of(points);
}
