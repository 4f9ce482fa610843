import { glockenspiel, weirBell } from '../parts/bells.js';
import { cello, uprightBass } from '../parts/low.js';
import type { Part } from '../parts/playing.js';
import { box, brushes, claps, frameDrum, shaker } from '../parts/rhythm.js';
import { millWheel, pumpHouse } from '../parts/room.js';
import { accordion, clarinet, fiddle, nylonGuitar, octaveMandolin, pumpOrgan } from '../parts/strings.js';
import { breathSwells, choir, countIn, harmonyHigh, harmonyLow, lead, leadDouble } from '../parts/voices.js';

/** A send of a track in the static mix; after the fader and following its pan unless it says otherwise. */
export type TrackSend = {
  readonly bus: 'hall' | 'slap' | 'swirl';
  readonly db: number;
  readonly tap?: 'pre' | 'post';
  /** A pan of its own. */
  readonly pan?: number;
};

/** A track of the demo: who plays, where its fader rests in the static mix, and its part. */
export type Track = {
  readonly key: string;
  readonly name: string;
  readonly family: string;
  readonly sides: 1 | 2;
  readonly restDb: number;
  readonly pan: number;
  readonly sends: readonly TrackSend[];
  readonly part: Part;
};

type Place = readonly [sides: 1 | 2, restDb: number, pan: number];
const family =
  (name: string) =>
  (track: string, [sides, restDb, pan]: Place, part: Part, ...sends: TrackSend[]): Track => ({
    key: track.toLowerCase().replaceAll(' ', '-'),
    name: track,
    family: name,
    sides,
    restDb,
    pan,
    sends,
    part,
  });
const rhythm = family('Rhythm');
const room = family('Room');
const low = family('Low');
const strings = family('Strings & reeds');
const bells = family('Bells');
const voices = family('Voices');

/** The twenty-four tracks, in the order of the song's families. */
export const TRACKS: readonly Track[] = [
  rhythm('Frame drum', [1, -8, -0.1], frameDrum),
  rhythm('Box', [1, -11, 0.15], box),
  rhythm('Brushes', [1, -17, 0.3], brushes),
  rhythm('Shaker', [1, -21, -0.45], shaker),
  rhythm('Claps', [1, -14, 0.4], claps, { bus: 'hall', db: -12 }),
  room('Pump house', [2, -16, 0], pumpHouse),
  room('Mill wheel', [1, -22, 0.2], millWheel),
  low('Upright bass', [1, -8, 0], uprightBass),
  low('Cello', [1, -14, 0.25], cello, { bus: 'hall', db: -15 }),
  strings('Nylon guitar', [1, -10, 0.35], nylonGuitar, { bus: 'swirl', db: -18 }),
  strings('Octave mandolin', [1, -14, -0.55], octaveMandolin, { bus: 'slap', db: -16 }),
  strings('Fiddle', [1, -11, -0.4], fiddle, { bus: 'hall', db: -12, pan: 0.4 }),
  strings('Clarinet', [1, -19, -0.7], clarinet, { bus: 'hall', db: -14 }),
  strings('Accordion', [1, -15, 0.6], accordion, { bus: 'swirl', db: -15 }),
  strings('Pump organ', [2, -15, 0], pumpOrgan),
  bells('Glockenspiel', [1, -17, 0.5], glockenspiel, { bus: 'hall', db: -10 }),
  bells('Weir bell', [1, -16, -0.2], weirBell, { bus: 'hall', db: -9 }),
  voices('Lead', [1, -5, 0], lead, { bus: 'hall', db: -18 }, { bus: 'slap', db: -20 }),
  voices('Lead double', [1, -14, -0.15], leadDouble, { bus: 'slap', db: -12 }),
  voices('Harmony low', [1, -13, -0.5], harmonyLow, { bus: 'hall', db: -14 }, { bus: 'swirl', db: -16 }),
  voices('Harmony high', [1, -14, 0.5], harmonyHigh, { bus: 'hall', db: -14 }, { bus: 'swirl', db: -16 }),
  voices('Choir', [2, -13, 0], choir, { bus: 'hall', db: -10 }),
  voices('Count-in', [1, -18, 0], countIn),
  voices('Breath swells', [1, -20, 0.1], breathSwells, { bus: 'hall', db: -8, tap: 'pre' }),
];
