import type { Point } from '../curve/index.js';
import { linePoint } from '../curve/index.js';
import { readSong } from '../formats/index.js';
import type { Channel, Lane, Settings, Song } from '../song/index.js';

type SongParts = {
  readonly settings?: Partial<Settings>;
  readonly channels?: readonly Partial<Channel>[];
  readonly lanes?: { readonly [id: string]: Partial<Lane> };
  readonly length?: number;
};

/** A song of one voice, a fiddle, their main and a VCA over both, 60 s long, unthinned unless settings say otherwise. */
export function testSong({ settings, channels, lanes, length = 60 }: SongParts = {}): Song {
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    name: 'Test',
    length,
    settings: { thin: 0, ...settings },
    channels: channels ?? [
      { key: 'voice', kind: 'track', name: 'Voice', mode: 'touch' },
      { key: 'fiddle', kind: 'track', name: 'Fiddle' },
      { key: 'main', kind: 'main', name: 'Main' },
      { key: 'all', kind: 'vca', name: 'All', members: ['voice', 'fiddle'] },
    ],
    lanes: voiceLane(channels, lanes),
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}

/** The voice's level stands at −6 dB unless the test says otherwise, or has no voice. */
function voiceLane(channels: SongParts['channels'], lanes: SongParts['lanes']): SongParts['lanes'] {
  const hasVoice = !channels || channels.some((channel) => channel.key === 'voice');
  return hasVoice ? { 'voice/level': { rest: -6, points: [linePoint(0, -6)] }, ...lanes } : lanes;
}

/** Time and value of points, to compare by. */
export const pairs = (points: readonly Point[]): [number, number][] => points.map((p) => [p.t, p.v]);
