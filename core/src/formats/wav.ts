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

/**
 * How samples of so many bits lie in so many bytes each: integers stand at the top of their bytes, so 24 bits in four
 * are read as 32.
 */
function sampleFormat(tag: number, bits: number, bytes: number): SampleFormat | null {
  if (tag === FORMAT_FLOAT) return bits === 32 && bytes === 4 ? 'float32' : null;
  if (tag !== FORMAT_INT || bits <= 8 || bits > 8 * bytes) return null;
  return bytes === 2 ? 'int16' : bytes === 3 ? 'int24' : bytes === 4 ? 'int32' : null;
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
  const channels = view.getUint16(2, true);
  if (channels < 1 || channels > 2)
    return refuse(`The WAV file has ${channels} channels; only mono and stereo can be read.`);
  // The block says how many bytes a frame takes; some writers leave it at nothing.
  const block = view.getUint16(12, true) || channels * Math.ceil(bits / 8);
  if (block % channels)
    return refuse(`The WAV file’s blocks of ${block} bytes can’t be shared among ${channels} channels; write it anew.`);
  const format = sampleFormat(real, bits, block / channels);
  if (!format)
    return refuse(
      `The WAV file’s samples (format ${real}, ${bits} bit in ${block / channels} bytes) can’t be read; save it as 16, 24, 32 bit or 32 bit float.`,
    );
  const sampleRate = view.getUint32(4, true);
  if (sampleRate < RATES.least || sampleRate > RATES.most)
    return refuse(`The WAV file says it is at ${sampleRate} Hz; between ${RATES.least} and ${RATES.most} can be read.`);
  return { ok: true, value: { format, channels, sampleRate, bytesPerFrame: block } };
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
      const bytes = dataBytes(read, { size, body, fileBytes, longData });
      if (body + bytes > fileBytes)
        return refuse(
          `The WAV file is cut short: ${bytes} bytes of audio are promised, ${Math.max(0, fileBytes - body)} are there.`,
        );
      return { ok: true, value: { ...found, frames: Math.floor(bytes / found.bytesPerFrame), dataOffset: body } };
    }
    at = body + size;
    // An odd chunk is followed by a byte of nothing; some writers leave that out.
    if (size & 1 && !isChunkAt(read, at, fileBytes)) at++;
  }
  return refuse('The WAV file has no audio data.');
}

/** Whether a chunk begins at a byte: four letters, and a size that fits the file. */
function isChunkAt(read: ReadBytes, at: number, fileBytes: number): boolean {
  const head = at + 8 <= fileBytes ? read(at, 8) : new Uint8Array();
  if (head.length < 8 || !head.subarray(0, 4).every((c) => c >= 0x20 && c < 0x7f)) return false;
  return at + 8 + new DataView(head.buffer, head.byteOffset).getUint32(4, true) <= fileBytes;
}

type DataChunk = {
  readonly size: number;
  readonly body: number;
  readonly fileBytes: number;
  readonly longData: number | null;
};

/** How much audio there is: a file that was streamed did not know, and says nothing at all or the most that fits. */
function dataBytes(read: ReadBytes, { size, body, fileBytes, longData }: DataChunk): number {
  if (size === UNKNOWN_SIZE) return longData ?? Math.max(0, fileBytes - body);
  return size === 0 && fileBytes > body && !isChunkAt(read, body, fileBytes) ? fileBytes - body : size;
}

const isTag = (bytes: Uint8Array, at: number, tag: string): boolean =>
  bytes.length >= at + 4 && [...tag].every((c, i) => bytes[at + i] === c.charCodeAt(0));

/** {@link findWavInfo} over bytes in memory: the whole file, or its beginning where the header is known to be short. */
export const readWavInfo = (head: Uint8Array, fileBytes: number): Read<WavInfo> =>
  findWavInfo((at, length) => head.subarray(at, at + length), fileBytes);

/** A power of two: multiplying by it is exact, and quicker than dividing. */
const TO_UNIT_16 = 1 / 32768;

/**
 * Turns interleaved sample bytes into one float column a channel, −1 … 1; writes `frames` of them from `at` on. A float that is no sound,
 * not being finite, is silence, or what it goes through would remember it; gives back the first of the frames with such, −1 where none has.
 */
export function decodeFrames(
  bytes: Uint8Array,
  { format, channels, bytesPerFrame }: WavInfo,
  out: readonly Float32Array[],
  { at = 0, frames }: { readonly at?: number; readonly frames: Frames },
): number {
  let noSound = -1;
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
      if (x - x !== 0) {
        if (noSound < 0 || i < noSound) noSound = i;
        x = 0;
      }
      column[at + i] = x;
    }
  }
  return noSound;
}

/** How many bytes a plain WAV file can say that it has. */
const MOST_PLAIN = 0xffffffff - 36 - 1;
const PLAIN_HEAD = 44;
/** What the sizes of a long file take: a chunk of their own. */
const SIZES_CHUNK = 36;

/** Whether so many frames need a WAV file with long sizes (RF64, EBU Tech 3306). */
export const isLongWav = (format: SampleFormat, channels: number, frames: Frames): boolean =>
  frames * channels * BYTES[format] > MOST_PLAIN;

/**
 * The bytes before the samples of a WAV file: 44 of a plain one, 80 of one over 4 GB, which is RF64 (EBU Tech 3306).
 * `isLong` where that is decided beforehand: see {@link isLongWav}.
 */
export function wavHeader(
  format: SampleFormat,
  channels: number,
  sampleRate: number,
  frames: Frames,
  isLong = isLongWav(format, channels, frames),
): Uint8Array {
  const bytesPerFrame = channels * BYTES[format];
  const size = frames * bytesPerFrame;
  const shift = isLong ? SIZES_CHUNK : 0;
  const head = new DataView(new ArrayBuffer(PLAIN_HEAD + shift));
  const write = (at: number, name: string): void => [...name].forEach((c, i) => head.setUint8(at + i, c.charCodeAt(0)));
  write(0, isLong ? 'RF64' : 'RIFF');
  head.setUint32(4, isLong ? UNKNOWN_SIZE : 36 + size, true);
  write(8, 'WAVE');
  if (isLong) {
    write(12, 'ds64');
    head.setUint32(16, SIZES_CHUNK - 8, true);
    head.setBigUint64(20, BigInt(36 + shift + size), true);
    head.setBigUint64(28, BigInt(size), true);
    head.setBigUint64(36, BigInt(frames), true);
  }
  write(12 + shift, 'fmt ');
  head.setUint32(16 + shift, 16, true);
  head.setUint16(20 + shift, format === 'float32' ? FORMAT_FLOAT : FORMAT_INT, true);
  head.setUint16(22 + shift, channels, true);
  head.setUint32(24 + shift, sampleRate, true);
  head.setUint32(28 + shift, sampleRate * bytesPerFrame, true);
  head.setUint16(32 + shift, bytesPerFrame, true);
  head.setUint16(34 + shift, BYTES[format] * 8, true);
  write(36 + shift, 'data');
  head.setUint32(40 + shift, isLong ? UNKNOWN_SIZE : size, true);
  return new Uint8Array(head.buffer);
}

const limit = (x: number, top: number): number => Math.max(-top - 1, Math.min(top, Math.round(x)));

/**
 * Turns float columns into interleaved sample bytes. 16 bit gets triangular dither from a fixed seed, the same bytes
 * every time; integers past full scale are limited there.
 */
export class FrameEncoder {
  /** Of the dither's noise, between two blocks. */
  #seed = 1;

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

  /**
   * Frame by frame, so that the dither is the same however long the blocks are: two uniform noises of half a step either way make the
   * triangular one. The seed is a signed number here, by which the loop goes twice as fast.
   */
  #encodeDithered(columns: readonly Float32Array[], frames: Frames, bytes: Uint8Array): void {
    const view = new DataView(bytes.buffer);
    const stride = 2 * columns.length;
    const unit = this.dither ? 1 / 4294967296 : 0;
    let seed = this.#seed;
    for (let i = 0; i < frames; i++)
      for (let c = 0, byte = i * stride; c < columns.length; c++, byte += 2) {
        seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
        let dither = (seed ^ 0x80000000) * unit;
        seed = (Math.imul(seed, 1664525) + 1013904223) | 0;
        dither += (seed ^ 0x80000000) * unit;
        view.setInt16(byte, limit(columns[c]![i]! * 32768 + dither, 32767), true);
      }
    this.#seed = seed;
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
