// The inner loops of the mix: a stretch of samples with gains that go straight from one value to another. Plain
// functions over local values, so that the engine can keep everything in registers. Whole numbers are made so by name:
// counted in floating point, every look into an array would convert one.

/** Two gains that go straight, side by side: at sample k they are gain + slope · (k + offset). */
export type SideGains = {
  gainLeft: number;
  slopeLeft: number;
  gainRight: number;
  slopeRight: number;
};

/**
 * left[k] += input[k] · its gain there, right[k] += input[k] · its, for k in [from, to): a mono source. Four at a time:
 * the sums wait for each other less, and the function is too long for the engine to copy it into its caller, where it
 * was measured to run at half the speed for want of registers.
 */
export function addMono(
  input: Float32Array,
  left: Float64Array,
  right: Float64Array,
  { gainLeft, slopeLeft, gainRight, slopeRight }: SideGains,
  offsetFrames: number,
  fromFrame: number,
  toFrame: number,
): void {
  const offset = offsetFrames | 0;
  const to = toFrame | 0;
  let k = fromFrame | 0;
  for (const fours = (to - 3) | 0; k < fours; k = (k + 4) | 0) {
    const d = (k + offset) | 0;
    const x0 = input[k]!;
    const x1 = input[k + 1]!;
    const x2 = input[k + 2]!;
    const x3 = input[k + 3]!;
    left[k]! += x0 * (gainLeft + slopeLeft * d);
    left[k + 1]! += x1 * (gainLeft + slopeLeft * (d + 1));
    left[k + 2]! += x2 * (gainLeft + slopeLeft * (d + 2));
    left[k + 3]! += x3 * (gainLeft + slopeLeft * (d + 3));
    right[k]! += x0 * (gainRight + slopeRight * d);
    right[k + 1]! += x1 * (gainRight + slopeRight * (d + 1));
    right[k + 2]! += x2 * (gainRight + slopeRight * (d + 2));
    right[k + 3]! += x3 * (gainRight + slopeRight * (d + 3));
  }
  for (; k < to; k = (k + 1) | 0) {
    const d = (k + offset) | 0;
    left[k]! += input[k]! * (gainLeft + slopeLeft * d);
    right[k]! += input[k]! * (gainRight + slopeRight * d);
  }
}

/** left[k] += inLeft[k] · its gain there, right[k] += inRight[k] · its, for k in [from, to): a stereo source, as {@link addMono}. */
export function addStereo(
  inLeft: Float32Array,
  inRight: Float32Array,
  left: Float64Array,
  right: Float64Array,
  { gainLeft, slopeLeft, gainRight, slopeRight }: SideGains,
  offsetFrames: number,
  fromFrame: number,
  toFrame: number,
): void {
  const offset = offsetFrames | 0;
  const to = toFrame | 0;
  let k = fromFrame | 0;
  for (const fours = (to - 3) | 0; k < fours; k = (k + 4) | 0) {
    const d = (k + offset) | 0;
    left[k]! += inLeft[k]! * (gainLeft + slopeLeft * d);
    left[k + 1]! += inLeft[k + 1]! * (gainLeft + slopeLeft * (d + 1));
    left[k + 2]! += inLeft[k + 2]! * (gainLeft + slopeLeft * (d + 2));
    left[k + 3]! += inLeft[k + 3]! * (gainLeft + slopeLeft * (d + 3));
    right[k]! += inRight[k]! * (gainRight + slopeRight * d);
    right[k + 1]! += inRight[k + 1]! * (gainRight + slopeRight * (d + 1));
    right[k + 2]! += inRight[k + 2]! * (gainRight + slopeRight * (d + 2));
    right[k + 3]! += inRight[k + 3]! * (gainRight + slopeRight * (d + 3));
  }
  for (; k < to; k = (k + 1) | 0) {
    const d = (k + offset) | 0;
    left[k]! += inLeft[k]! * (gainLeft + slopeLeft * d);
    right[k]! += inRight[k]! * (gainRight + slopeRight * d);
  }
}

/** Highest magnitude of input[k] · (gain + slope · (k + offset)) for k in [from, to): for meters. */
export function peakRamped(
  input: Float32Array,
  gain: number,
  slope: number,
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
