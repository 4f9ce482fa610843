/**
 * The lowest and highest samples of a file in buckets, at several widths: what waveforms are drawn from, made once. Levels
 * as pairs low, high in −127 … 127 of full scale, both sides of a stereo file together.
 */
export type PeakPyramid = { readonly frames: number; readonly levels: readonly Int8Array[] };

/** Frames a bucket of each level. */
export const PEAK_FRAMES = [256, 2048, 16384] as const;

/** Makes a pyramid from samples that come in order, any number of frames at a time. */
export class PeakMaker {
  readonly #finest: Int8Array;
  #frame = 0;
  #low = 0;
  #high = 0;

  constructor(readonly frames: number) {
    this.#finest = new Int8Array(2 * Math.ceil(frames / PEAK_FRAMES[0]));
  }

  add(columns: readonly Float32Array[], count: number): void {
    for (let i = 0; i < count; i++) {
      for (const column of columns) {
        const x = column[i]!;
        if (x < this.#low) this.#low = x;
        if (x > this.#high) this.#high = x;
      }
      if (++this.#frame % PEAK_FRAMES[0] === 0 || this.#frame === this.frames) this.#close();
    }
  }

  #close(): void {
    const bucket = Math.ceil(this.#frame / PEAK_FRAMES[0]) - 1;
    this.#finest[2 * bucket] = Math.max(-127, Math.floor(this.#low * 127));
    this.#finest[2 * bucket + 1] = Math.min(127, Math.ceil(this.#high * 127));
    this.#low = this.#high = 0;
  }

  finish(): PeakPyramid {
    const levels: Int8Array[] = [this.#finest];
    for (let k = 1; k < PEAK_FRAMES.length; k++)
      levels.push(coarser(levels[k - 1]!, PEAK_FRAMES[k]! / PEAK_FRAMES[k - 1]!));
    return { frames: this.frames, levels };
  }
}

function coarser(level: Int8Array, times: number): Int8Array {
  const buckets = level.length / 2;
  const out = new Int8Array(2 * Math.ceil(buckets / times));
  for (let b = 0; b < buckets; b++) {
    const to = Math.floor(b / times);
    out[2 * to] = Math.min(out[2 * to]!, level[2 * b]!);
    out[2 * to + 1] = Math.max(out[2 * to + 1]!, level[2 * b + 1]!);
  }
  return out;
}

/** A pyramid as bytes: a version, the frames, the length of each level, then the levels. */
export function peakBytes({ frames, levels }: PeakPyramid): Uint8Array {
  const head = new Uint32Array([1, frames, ...levels.map((level) => level.length)]);
  const bytes = new Uint8Array(head.byteLength + levels.reduce((sum, level) => sum + level.length, 0));
  bytes.set(new Uint8Array(head.buffer));
  let at = head.byteLength;
  for (const level of levels) {
    bytes.set(new Uint8Array(level.buffer), at);
    at += level.length;
  }
  return bytes;
}

/** Reads {@link peakBytes} back; throws on another version. */
export function peaksOf(buffer: ArrayBuffer): PeakPyramid {
  const [version, frames, ...lengths] = new Uint32Array(buffer, 0, 2 + PEAK_FRAMES.length);
  if (version !== 1) throw new Error(`peaks of version ${version}`);
  let at = 4 * (2 + PEAK_FRAMES.length);
  const levels = lengths.map((length) => {
    const level = new Int8Array(buffer, at, length);
    at += length;
    return level;
  });
  return { frames: frames!, levels };
}
