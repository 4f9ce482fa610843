// The inner loops of the mix: a stretch of samples with gains that go straight from one value to another. Plain
// functions over local values, so that the engine can keep everything in registers.

/** A gain that goes straight: at sample k it is gain + slope · (k + offset). */
export type Ramp = { gain: number; slope: number };

/** left[k] += inLeft[k] · its ramp, right[k] += inRight[k] · its, for k in [from, to). The inputs may be one and the same. */
export function addRamped(
  inLeft: Float32Array,
  inRight: Float32Array,
  left: Float64Array,
  right: Float64Array,
  { gain: gainLeft, slope: slopeLeft }: Ramp,
  { gain: gainRight, slope: slopeRight }: Ramp,
  offsetFrames: number,
  fromFrame: number,
  toFrame: number,
): void {
  // Whole numbers by name: counted in floating point, every look into an array would convert one.
  const offset = offsetFrames | 0;
  const from = fromFrame | 0;
  const to = toFrame | 0;
  if (slopeLeft === 0 && slopeRight === 0)
    for (let k = from; k < to; k++) {
      left[k]! += inLeft[k]! * gainLeft;
      right[k]! += inRight[k]! * gainRight;
    }
  else
    for (let k = from; k < to; k++) {
      const d = k + offset;
      left[k]! += inLeft[k]! * (gainLeft + slopeLeft * d);
      right[k]! += inRight[k]! * (gainRight + slopeRight * d);
    }
}

/** Highest magnitude of input[k] · (gain + slope · (k + offset)) for k in [from, to): for meters. */
export function peakRamped(
  input: Float32Array,
  { gain, slope }: Ramp,
  offsetFrames: number,
  fromFrame: number,
  toFrame: number,
): number {
  const offset = offsetFrames | 0;
  const from = fromFrame | 0;
  const to = toFrame | 0;
  let peak = 0;
  for (let k = from; k < to; k++) {
    const x = Math.abs(input[k]! * (gain + slope * (k + offset)));
    if (x > peak) peak = x;
  }
  return peak;
}

/** out[k + at] += raw[k] for k in [0, n). */
export function addPlain(raw: Float32Array, out: Float32Array, at: number, n: number): void {
  for (let k = 0; k < n; k++) out[at + k]! += raw[k]!;
}
