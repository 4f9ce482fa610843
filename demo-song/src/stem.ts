import { createHash } from 'node:crypto';
import { join } from 'node:path';
import { writeWav } from '@sure-hand/audio-files';
import { SAMPLE_RATE, Tape, gainOf } from './instruments/sound.js';
import type { Form } from './score/form.js';
import { TRACKS, type Track } from './score/tracks.js';

/** Where a recording sounds, in frames of the song. */
type Stretch = { from: number; to: number };
/** A clip of the song document as a stem asks for it. */
export type StemClip = { readonly t: number; readonly file: string; readonly offset: number; readonly length: number };
export type Stem = { readonly key: string; readonly clips: readonly StemClip[]; readonly bytes: number };

/** Every stem peaks here. */
const PEAK = gainOf(-3);
/** Below this nothing sounds; a silence of this many seconds parts two clips, each kept with a margin. */
const SILENCE = { below: 2e-4, sec: 2, marginSec: 0.05 } as const;

const seedOf = (key: string): number => createHash('sha256').update(key).digest().readUInt32LE(0);

/** Plays a track's part; the same samples every time. */
function playTrack({ key, sides, part }: Track, form: Form): Tape {
  const tape = new Tape(form.length, sides, seedOf(key));
  part(form, tape);
  let peak = 1e-9;
  for (const side of tape.sides) for (let i = 0; i < side.length; i++) peak = Math.max(peak, Math.abs(side[i]!));
  const gain = PEAK / peak;
  for (const side of tape.sides) for (let i = 0; i < side.length; i++) side[i]! *= gain;
  return tape;
}

/** The stretches in which a recording sounds. */
export function soundingStretches(sides: readonly Float32Array[]): Stretch[] {
  const stretches: Stretch[] = [];
  const margin = Math.round(SILENCE.marginSec * SAMPLE_RATE);
  const first = sides[0]!;
  const second = sides[1] ?? first;
  const { length } = first;
  for (let i = 0; i < length; i++) {
    if (Math.abs(first[i]!) <= SILENCE.below && Math.abs(second[i]!) <= SILENCE.below) continue;
    const last = stretches.at(-1);
    if (last && i - last.to < SILENCE.sec * SAMPLE_RATE) last.to = Math.min(length, i + margin);
    else stretches.push({ from: Math.max(0, i - margin), to: Math.min(length, i + margin) });
  }
  return stretches;
}

/** Plays a track and writes its stem: a 16-bit WAV of the stretches in which it sounds, one after the other. */
export function writeStem(key: string, form: Form, folder: string): Stem {
  const track = TRACKS.find((t) => t.key === key)!;
  const tape = playTrack(track, form);
  const stretches = soundingStretches(tape.sides);
  const file = `${key}.wav`;
  const clips: StemClip[] = [];
  let frames = 0;
  const most = tape.sides[0]!.length;
  writeWav(
    join(folder, file),
    { format: 'int16', channels: tape.sides.length, sampleRate: SAMPLE_RATE, most },
    (add) => {
      for (const { from, to } of stretches) {
        add(
          tape.sides.map((side) => side.subarray(from, to)),
          to - from,
        );
        const [t, offset, length] = [from, frames, to - from].map((n) => n / SAMPLE_RATE) as [number, number, number];
        clips.push({ t, file, offset, length });
        frames += to - from;
      }
    },
  );
  return { key, clips, bytes: 44 + frames * 2 * tape.sides.length };
}
