import { FrameEncoder, wavHeader, type SampleFormat } from '@sure-hand/core/formats';

type Tone = {
  readonly sec?: number;
  readonly rate?: number;
  readonly format?: SampleFormat;
  readonly channels?: 1 | 2;
  readonly hz?: number;
  readonly peak?: number;
};

/** A steady tone as the bytes of a WAV file, the same on every channel. */
export function toneWav({
  sec = 1,
  rate = 48000,
  format = 'int16',
  channels = 1,
  hz = 500,
  peak = 0.5,
}: Tone = {}): Buffer {
  const frames = Math.round(rate * sec);
  const column = new Float32Array(frames);
  // A second of it is the same as any other: to work out minutes holds everything up.
  const once = Math.min(frames, rate);
  for (let n = 0; n < once; n++) column[n] = peak * Math.sin((2 * Math.PI * hz * n) / rate);
  for (let n = once; n < frames; n += once) column.copyWithin(n, 0, Math.min(once, frames - n));
  const bytes = new FrameEncoder(format, false).encode(Array(channels).fill(column), frames);
  return Buffer.concat([wavHeader(format, channels, rate, frames), bytes]);
}
