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
/** What a chunk's size says where it does not fit, or was not known when it was written. */
const UNKNOWN_SIZE = 0xffffffff;
const MOST_CHUNKS = 10000;
const RATES = { least: 8000, most: 384000 } as const;

const refuse = (sentence: string): { readonly ok: false; readonly sentence: string } => ({ ok: false, sentence });

function sampleFormat(tag: number, bits: number): SampleFormat | null {
  if (tag === FORMAT_FLOAT) return bits === 32 ? 'float32' : null;
  if (tag !== FORMAT_INT) return null;
  return bits === 16 ? 'int16' : bits === 24 ? 'int24' : bits === 32 ? 'int32' : null;
}

/** Reads so many bytes of a file from a byte on; fewer where it ends. */
export type ReadBytes = (at: number, length: number) => Uint8Array;

/** The chunk of format, 40 bytes at most; what follows its own extension is of no use here. */
function formatOf(chunk: Uint8Array): Read<Omit<WavInfo, 'frames' | 'dataOffset'>> {
  if (chunk.length < 16) return refuse('The WAV file’s format chunk is cut short.');
  const view = new DataView(chunk.buffer, chunk.byteOffset, chunk.byteLength);
  const code = view.getUint16(0, true);
  const real = code === FORMAT_EXTENSIBLE && chunk.length >= 26 ? view.getUint16(24, true) : code;
  const bits = view.getUint16(14, true);
  const format = sampleFormat(real, bits);
  if (!format)
    return refuse(
      `The WAV file’s samples (format ${real}, ${bits} bit) can’t be read; save it as 16, 24, 32 bit or 32 bit float.`,
    );
  const channels = view.getUint16(2, true);
  if (channels < 1 || channels > 2)
    return refuse(`The WAV file has ${channels} channels; only mono and stereo can be read.`);
  const sampleRate = view.getUint32(4, true);
  if (sampleRate < RATES.least || sampleRate > RATES.most)
    return refuse(`The WAV file says it is at ${sampleRate} Hz; between ${RATES.least} and ${RATES.most} can be read.`);
  return { ok: true, value: { format, channels, sampleRate, bytesPerFrame: channels * BYTES[format] } };
}

/**
 * Reads a WAV file's header: RIFF WAVE (Multimedia Programming Interface and Data Specifications 1.0), broadcast WAV
 * (EBU Tech 3285, whose own chunks are passed over) and RF64 (EBU Tech 3306). `fileBytes` is the whole file's size, so
 * that a file cut short is noticed.
 */
export function findWavInfo(read: ReadBytes, fileBytes: number): Read<WavInfo> {
  const head = read(0, 12);
  const isLong = isTag(head, 0, 'RF64') || isTag(head, 0, 'BW64');
  if (head.length < 12 || !(isLong || isTag(head, 0, 'RIFF')) || !isTag(head, 8, 'WAVE'))
    return refuse('This is no WAV file: it does not begin with RIFF … WAVE.');
  let found: Omit<WavInfo, 'frames' | 'dataOffset'> | null = null;
  let longData: number | null = null;
  for (let at = 12, chunks = 0; at + 8 <= fileBytes && chunks < MOST_CHUNKS; chunks++) {
    const chunk = read(at, 8);
    if (chunk.length < 8) break;
    const size = new DataView(chunk.buffer, chunk.byteOffset).getUint32(4, true);
    const body = at + 8;
    if (isTag(chunk, 0, 'ds64') && isLong) {
      const sizes = read(body, 24);
      if (sizes.length < 24) return refuse('The RF64 file’s sizes are cut short.');
      longData = Number(new DataView(sizes.buffer, sizes.byteOffset).getBigUint64(8, true));
    }
    if (isTag(chunk, 0, 'fmt ')) {
      const format = formatOf(read(body, Math.min(size, 40)));
      if (!format.ok) return format;
      found = format.value;
    }
    if (isTag(chunk, 0, 'data')) {
      if (!found) return refuse('The WAV file’s data comes before its format.');
      const bytes = size === UNKNOWN_SIZE ? (longData ?? fileBytes - body) : size;
      if (body + bytes > fileBytes)
        return refuse(
          `The WAV file is cut short: ${bytes} bytes of audio are promised, ${Math.max(0, fileBytes - body)} are there.`,
        );
      return { ok: true, value: { ...found, frames: Math.floor(bytes / found.bytesPerFrame), dataOffset: body } };
    }
    at = body + size + (size & 1);
  }
  return refuse('The WAV file has no audio data.');
}

const isTag = (bytes: Uint8Array, at: number, tag: string): boolean =>
  bytes.length >= at + 4 && [...tag].every((c, i) => bytes[at + i] === c.charCodeAt(0));

/** {@link findWavInfo} over bytes in memory: the whole file, or its beginning where the header is known to be short. */
export const readWavInfo = (head: Uint8Array, fileBytes: number): Read<WavInfo> =>
  findWavInfo((at, length) => head.subarray(at, at + length), fileBytes);

/** A power of two: multiplying by it is exact, and quicker than dividing. */
const TO_UNIT_16 = 1 / 32768;

/** Turns interleaved sample bytes into one float column a channel, −1 … 1; writes `frames` of them from `at` on. */
export function decodeFrames(
  bytes: Uint8Array,
  { format, channels, bytesPerFrame }: WavInfo,
  out: readonly Float32Array[],
  { at = 0, frames }: { readonly at?: number; readonly frames: Frames },
): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const whole =
    format === 'int16' && bytes.byteOffset % 2 === 0
      ? new Int16Array(bytes.buffer, bytes.byteOffset, bytes.byteLength >> 1)
      : null;
  for (let c = 0; c < channels; c++) {
    const column = out[c]!;
    if (whole) {
      // The common case, several times quicker than byte by byte. Every machine this runs on is little-endian, as WAV is.
      for (let i = 0, k = c; i < frames; i++, k += channels) column[at + i] = whole[k]! * TO_UNIT_16;
      continue;
    }
    let byte = c * BYTES[format];
    for (let i = 0; i < frames; i++, byte += bytesPerFrame) {
      let x: number;
      if (format === 'int16') x = view.getInt16(byte, true) * TO_UNIT_16;
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
    if (this.format === 'int16') this.#encodeDithered(columns, frames, bytes);
    else
      for (let c = 0; c < channels; c++)
        this.#encodeColumn(columns[c]!, frames, { bytes, byte: c * step, stride: channels * step });
    return bytes;
  }

  /** Frame by frame, so that the dither is the same however long the blocks are. */
  #encodeDithered(columns: readonly Float32Array[], frames: Frames, bytes: Uint8Array): void {
    const view = new DataView(bytes.buffer);
    for (let i = 0, byte = 0; i < frames; i++)
      for (let c = 0; c < columns.length; c++, byte += 2) {
        const dither = this.dither ? this.#noise() + this.#noise() : 0;
        view.setInt16(byte, limit(columns[c]![i]! * 32768 + dither, 32767), true);
      }
  }

  /** One column into its places among the bytes. The format is asked once: this runs for every sample of a bounce. */
  #encodeColumn(
    column: Float32Array,
    frames: Frames,
    { bytes, byte: first, stride }: { bytes: Uint8Array; byte: number; stride: number },
  ): void {
    const view = new DataView(bytes.buffer);
    let byte = first;
    switch (this.format as Exclude<SampleFormat, 'int16'>) {
      case 'int24':
        for (let i = 0; i < frames; i++, byte += stride) {
          const n = limit(column[i]! * 8388608, 8388607);
          bytes[byte] = n;
          bytes[byte + 1] = n >> 8;
          bytes[byte + 2] = n >> 16;
        }
        return;
      case 'float32':
        for (let i = 0; i < frames; i++, byte += stride) view.setFloat32(byte, column[i]!, true);
        return;
      case 'int32':
        for (let i = 0; i < frames; i++, byte += stride)
          view.setInt32(byte, limit(column[i]! * 2147483648, 2147483647), true);
    }
  }
}
