import type { Point } from '../curve/index.js';
import { Curve, linePoint } from '../curve/index.js';
import { readSong } from '../formats/index.js';
import type { Channel, Gang, Lane, Settings, Song } from '../song/index.js';

type LaneParts = Partial<Omit<Lane, 'points' | 'trim'>> & {
  readonly points?: Iterable<Point>;
  readonly trim?: Iterable<Point>;
};
type SongParts = {
  readonly settings?: Partial<Settings>;
  readonly channels?: readonly Partial<Channel>[];
  readonly lanes?: { readonly [id: string]: LaneParts };
  readonly gangs?: readonly (Partial<Gang> & Pick<Gang, 'key' | 'channels'>)[];
  readonly length?: number;
};

/** A song of one voice, a fiddle, their main and a VCA over both, 60 s long, unthinned unless settings say otherwise, no gangs unless said. */
export function testSong({ settings, channels, lanes, gangs, length = 60 }: SongParts = {}): Song {
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
    gangs,
    lanes: asDocument(voiceLane(channels, lanes)),
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}

/** As a document has them, each curve a list of points. */
const asDocument = (lanes: SongParts['lanes']): unknown =>
  lanes &&
  Object.fromEntries(
    Object.entries(lanes).map(([id, { points = [], trim = [], ...lane }]) => [
      id,
      { ...lane, points: [...points], trim: [...trim] },
    ]),
  );

/** The voice's level stands at −6 dB unless the test says otherwise, or has no voice. */
function voiceLane(channels: SongParts['channels'], lanes: SongParts['lanes']): SongParts['lanes'] {
  const hasVoice = !channels || channels.some((channel) => channel.key === 'voice');
  return hasVoice ? { 'voice/level': { rest: -6, points: [linePoint(0, -6)] }, ...lanes } : lanes;
}

/** A curve of points. */
export const curve = (...points: readonly Point[]): Curve => Curve.of(points);

/** Time and value of points, to compare by. */
export const pairs = (points: Iterable<Point>): [number, number][] => [...points].map((p) => [p.t, p.v]);
