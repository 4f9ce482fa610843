import type { Frames } from '../units/index.js';
import type { Read } from './songDocument.js';

/** How samples lie in a WAV file's data: integers of 16, 24 or 32 bits, or 32-bit floats. */
export type SampleFormat = 'int16' | 'int24' | 'int32' | 'float32';

/** What a WAV file's header says, and where its samples are: all that is needed to read any stretch of it. */
export type WavInfo = {
  readonly format: SampleFormat;
  readonly channels: number;
  readonly sampleRate: number;
  readonly frames: Frames;
  /** Byte at which the first frame begins. */
  readonly dataOffset: number;
  readonly bytesPerFrame: number;
};

const BYTES: Record<SampleFormat, number> = { int16: 2, int24: 3, int32: 4, float32: 4 };
const FORMAT_INT = 1;
const FORMAT_FLOAT = 3;
const FORMAT_EXTENSIBLE = 0xfffe;

const refuse = (sentence: string): { readonly ok: false; readonly sentence: string } => ({ ok: false, sentence });

function sampleFormat(tag: number, bits: number): SampleFormat | null {
  if (tag === FORMAT_FLOAT) return bits === 32 ? 'float32' : null;
  if (tag !== FORMAT_INT) return null;
  return bits === 16 ? 'int16' : bits === 24 ? 'int24' : bits === 32 ? 'int32' : null;
}

/**
 * Reads a RIFF WAVE header (Multimedia Programming Interface and Data Specifications 1.0) from the file's first bytes.
 * `fileBytes` is the whole file's size, so that a file cut short is noticed.
 */
export function readWavInfo(head: Uint8Array, fileBytes: number): Read<WavInfo> {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const tag = (at: number): string => String.fromCharCode(...head.subarray(at, at + 4));
  if (head.length < 12 || tag(0) !== 'RIFF' || tag(8) !== 'WAVE')
    return refuse('This is no WAV file: it does not begin with RIFF … WAVE.');
  let found: Omit<WavInfo, 'frames' | 'dataOffset'> | null = null;
  for (let at = 12; at + 8 <= head.length;) {
    const size = view.getUint32(at + 4, true);
    const body = at + 8;
    if (tag(at) === 'fmt ') {
      if (size < 16 || body + 16 > head.length) return refuse('The WAV file’s format chunk is cut short.');
      const code = view.getUint16(body, true);
      const extended = code === FORMAT_EXTENSIBLE && size >= 26 && body + 26 <= head.length;
      const real = extended ? view.getUint16(body + 24, true) : code;
      const bits = view.getUint16(body + 14, true);
      const format = sampleFormat(real, bits);
      if (!format)
        return refuse(
          `The WAV file’s samples (format ${real}, ${bits} bit) can’t be read; save it as 16, 24, 32 bit or 32 bit float.`,
        );
      const channels = view.getUint16(body + 2, true);
      if (channels < 1 || channels > 2)
        return refuse(`The WAV file has ${channels} channels; only mono and stereo can be read.`);
      const sampleRate = view.getUint32(body + 4, true);
      found = { format, channels, sampleRate, bytesPerFrame: channels * BYTES[format] };
    }
    if (tag(at) === 'data') {
      if (!found) return refuse('The WAV file’s data comes before its format.');
      if (body + size > fileBytes)
        return refuse(
          `The WAV file is cut short: ${size} bytes of audio are promised, ${Math.max(0, fileBytes - body)} are there.`,
        );
      return { ok: true, value: { ...found, frames: Math.floor(size / found.bytesPerFrame), dataOffset: body } };
    }
    at = body + size + (size & 1);
  }
  return refuse('The WAV file has no audio data in its first part.');
}

/** Turns interleaved sample bytes into one float column a channel, −1 … 1; writes `frames` of them from `at` on. */
export function decodeFrames(
  bytes: Uint8Array,
  { format, channels, bytesPerFrame }: WavInfo,
  out: readonly Float32Array[],
  { at = 0, frames }: { readonly at?: number; readonly frames: Frames },
): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let c = 0; c < channels; c++) {
    const column = out[c]!;
    let byte = c * BYTES[format];
    for (let i = 0; i < frames; i++, byte += bytesPerFrame) {
      let x: number;
      if (format === 'int16') x = view.getInt16(byte, true) / 32768;
      else if (format === 'float32') x = view.getFloat32(byte, true);
      else if (format === 'int24') x = (view.getInt8(byte + 2) * 65536 + view.getUint16(byte, true)) / 8388608;
      else x = view.getInt32(byte, true) / 2147483648;
      column[at + i] = x;
    }
  }
}

/** The 44 bytes before the samples of a plain WAV file. */
export function wavHeader(format: SampleFormat, channels: number, sampleRate: number, frames: Frames): Uint8Array {
  const bytesPerFrame = channels * BYTES[format];
  const size = frames * bytesPerFrame;
  const head = new DataView(new ArrayBuffer(44));
  const write = (at: number, name: string): void => [...name].forEach((c, i) => head.setUint8(at + i, c.charCodeAt(0)));
  write(0, 'RIFF');
  head.setUint32(4, 36 + size, true);
  write(8, 'WAVEfmt ');
  head.setUint32(16, 16, true);
  head.setUint16(20, format === 'float32' ? FORMAT_FLOAT : FORMAT_INT, true);
  head.setUint16(22, channels, true);
  head.setUint32(24, sampleRate, true);
  head.setUint32(28, sampleRate * bytesPerFrame, true);
  head.setUint16(32, bytesPerFrame, true);
  head.setUint16(34, BYTES[format] * 8, true);
  write(36, 'data');
  head.setUint32(40, size, true);
  return new Uint8Array(head.buffer);
}

/** Uniform noise in −0.5 … 0.5 from a seed: two of them make the triangular dither of one step either way. */
function noise(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 4294967296 - 0.5;
  };
}

const limit = (x: number, top: number): number => Math.max(-top - 1, Math.min(top, Math.round(x)));

/**
 * Turns float columns into interleaved sample bytes. 16 bit gets triangular dither from a fixed seed, the same bytes
 * every time; integers past full scale are limited there.
 */
export class FrameEncoder {
  readonly #noise = noise(1);

  constructor(
    readonly format: SampleFormat,
    readonly dither = format === 'int16',
  ) {}

  encode(columns: readonly Float32Array[], frames: Frames): Uint8Array {
    const step = BYTES[this.format];
    const channels = columns.length;
    const bytes = new Uint8Array(frames * channels * step);
    const view = new DataView(bytes.buffer);
    let byte = 0;
    for (let i = 0; i < frames; i++)
      for (let c = 0; c < channels; c++, byte += step) {
        const x = columns[c]![i]!;
        if (this.format === 'float32') view.setFloat32(byte, x, true);
        else if (this.format === 'int16') {
          const dither = this.dither ? this.#noise() + this.#noise() : 0;
          view.setInt16(byte, limit(x * 32768 + dither, 32767), true);
        } else if (this.format === 'int24') {
          const n = limit(x * 8388608, 8388607);
          view.setUint16(byte, n & 0xffff, true);
          view.setInt8(byte + 2, n >> 16);
        } else view.setInt32(byte, limit(x * 2147483648, 2147483647), true);
      }
    return bytes;
  }
}
