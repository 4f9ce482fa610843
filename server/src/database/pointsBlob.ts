import { SHAPES, SHAPE_CODE, type Point } from '@sure-hand/core/curve';

/**
 * Points as compact bytes: a version, the count, then for each point a byte of flags (shape in the low two bits, whether
 * it is bent, whether it is a part), its time and value as float64, and its bend and part where it has them.
 */
const VERSION = 1;
const BENT = 4;
const PART = 8;

export function blobOfPoints(points: readonly Point[]): Buffer {
  const size = points.reduce((sum, p) => sum + 17 + (p.bend ? 8 : 0) + (p.part ? 16 : 0), 5);
  const blob = Buffer.alloc(size);
  blob.writeUInt8(VERSION, 0);
  blob.writeUInt32LE(points.length, 1);
  let at = 5;
  for (const p of points) {
    blob.writeUInt8(SHAPE_CODE[p.shape] | (p.bend ? BENT : 0) | (p.part ? PART : 0), at);
    blob.writeDoubleLE(p.t, at + 1);
    blob.writeDoubleLE(p.v, at + 9);
    at += 17;
    for (const x of [...(p.bend ? [p.bend] : []), ...(p.part ?? [])]) at = blob.writeDoubleLE(x, at);
  }
  return blob;
}

/** Reads {@link blobOfPoints} back; throws where the bytes are of another version or cut short: nothing is guessed. */
export function pointsOfBlob(blob: Buffer): Point[] {
  if (blob.readUInt8(0) !== VERSION) throw new Error(`points of version ${blob.readUInt8(0)}`);
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
  return points;
}
