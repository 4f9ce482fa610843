import { readSong } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';

/** A short song of a voice in touch and a fiddle that reads; more or other fields by `parts`. */
export function testSong(parts: object = {}): Song {
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    name: 'Test',
    length: 60,
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice', family: 'Voices', mode: 'touch' },
      { key: 'fiddle', kind: 'track', name: 'Fiddle', family: 'Strings' },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
    lanes: { 'voice/level': { rest: -6, points: [{ t: 0, v: -6 }] } },
    ...parts,
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}
