import fc from 'fast-check';
import { holdPoint, linePoint, type Point } from '../curve/index.js';
import {
  CONTROL_KINDS,
  FADE_SHAPES,
  MODES,
  controlOf,
  controlsOf,
  isSwitch,
  type Clip,
  type Edit,
  type Marks,
  type MarkEdit,
  type Receipt,
  type Song,
} from '../song/index.js';
import { TRIM_LAW, valueOf } from '../units/index.js';
import { testSong } from './songs.js';

/** Numbers from which an edit is made: what it is about depends on the song that it meets. */
export type Draw = { readonly kind: Edit['kind']; readonly xs: readonly number[] };

const KINDS: readonly Edit['kind'][] = [
  'pass',
  'foldTrim',
  'carry',
  'bringBack',
  'rest',
  'lanes',
  'channel',
  'guard',
  'settings',
  'mark',
  'clip',
  'describe',
  'title',
];
const share = fc.double({ min: 0, max: 1, noNaN: true, maxExcluded: true });
export const draws: fc.Arbitrary<Draw> = fc.record({
  kind: fc.constantFrom(...KINDS),
  xs: fc.array(share, { minLength: 8, maxLength: 8 }),
});

/** A song with a track that has clips, a bus with a send to it, a VCA, marks of every list. */
export const anySong = (): Song => ({
  ...testSong({
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice', mode: 'touch', sends: [{ bus: 'hall', tap: 'pre', pan: 'own' }] },
      { key: 'fiddle', kind: 'track', name: 'Fiddle' },
      { key: 'hall', kind: 'bus', name: 'Hall' },
      { key: 'all', kind: 'vca', name: 'All', members: ['voice', 'fiddle'] },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
  }),
  sections: [{ t: 0, name: 'Intro' }],
  notes: [{ t: 3, text: 'Louder' }],
});

const pick = <T>(list: readonly T[], x: number): T => list[Math.floor(x * list.length)]!;
const bare: Receipt = { lap: 0, from: 0, to: 0, lanes: [], refused: [], rested: [] };

function pointsFor(song: Song, id: string, xs: readonly number[], isTrim: boolean): Point[] {
  const control = controlOf(song, id);
  return xs.map((x, i) => {
    const t = 4 * i + x;
    if (isSwitch(control)) return holdPoint(t, Math.round(x));
    return linePoint(t, valueOf(isTrim ? TRIM_LAW : control.law, x));
  });
}

function mark(song: Song, [a, b, c, d]: readonly number[]): MarkEdit {
  const list = pick(['sections', 'notes', 'tempo', 'meter'] as const, a!);
  const t = Math.round(b! * song.length * 8) / 8;
  const made: Marks = {
    sections: { t, name: `Part ${Math.round(c! * 99)}` },
    notes: { t, text: `Note ${Math.round(c! * 99)}`, channel: 'voice' },
    tempo: { t, bpm: 60 + Math.round(c! * 100) },
    meter: { t, beats: 2 + Math.round(c! * 5), unit: 4 },
  };
  const there = song[list];
  const remove = d! < 0.6 && there.length ? pick(there, d! / 0.6) : null;
  const add = c! < 0.7 || !remove ? made[list] : null;
  return { kind: 'mark', list, remove, add } as MarkEdit;
}

function clipEdit(song: Song, [a, b, c, d]: readonly number[]): Edit {
  const { clips } = song.channels.find(({ key }) => key === 'voice')!;
  const remove = clips.length && a! < 0.7 ? pick(clips, a! / 0.7) : null;
  const made: Clip = {
    t: Math.floor(b! * 50),
    file: 'voice.wav',
    offset: c!,
    length: 0.5,
    gain: 12 * d! - 6,
    fadeIn: 0.2 * c!,
    fadeOut: 0.2 * d!,
    fadeInShape: pick(FADE_SHAPES, c!),
    fadeOutShape: pick(FADE_SHAPES, d!),
  };
  return { kind: 'clip', channel: 'voice', remove, add: remove && b! < 0.3 ? null : made };
}

/** The edit that numbers stand for on a song. It may be one that the song's state refuses. */
export function editFrom(song: Song, { kind, xs }: Draw): Edit {
  const [a, b, c] = xs as [number, number, number];
  const id = pick([...controlsOf(song).keys()], a);
  const channel = pick(song.channels, a).key;
  switch (kind) {
    case 'pass': {
      const layer = controlOf(song, id).law.kind === 'level' && b < 0.4 ? 'trim' : 'base';
      const points = pointsFor(song, id, xs.slice(2, 6), layer === 'trim');
      const span = [points[0]!.t, points.at(-1)!.t + 0.5] as const;
      const lane = { control: id, layer, spans: [span], moves: 4, points: 4, maxDeviation: 0, clamped: [] } as const;
      const fold = layer === 'trim' && c < 0.5 ? { fold: [id] } : {};
      return { kind, pieces: [{ control: id, layer, span, points }], receipt: { ...bare, lanes: [lane] }, ...fold };
    }
    case 'foldTrim':
      return { kind, controls: [id, pick([...controlsOf(song).keys()], b)] };
    case 'carry':
      return { kind, control: id, from: Math.floor(60 * b), to: Math.floor(60 * c), layer: b < 0.2 ? 'trim' : 'base' };
    case 'bringBack': {
      const rest = isSwitch(controlOf(song, id)) ? 0 : valueOf(controlOf(song, id).law, c);
      const points = b < 0.2 ? [] : pointsFor(song, id, xs.slice(2, 6), false);
      const range = c < 0.3 ? null : ([20 * b, 20 * b + 10 * c] as const);
      return { kind, pass: 1, side: 'before', versions: [{ control: id, layer: 'base', range, points, rest }] };
    }
    case 'rest':
      return {
        kind,
        values: { [id]: isSwitch(controlOf(song, id)) ? Math.round(b) : valueOf(controlOf(song, id).law, b) },
      };
    case 'lanes': {
      const points = pointsFor(song, id, xs.slice(2, 5), false);
      return {
        kind,
        lanes: { [id]: b < 0.3 ? null : { rest: points[0]!.v, points, trim: [], parked: false, safe: false } },
      };
    }
    case 'channel':
      return b < 0.5
        ? { kind, channel, changes: { mode: pick(MODES, c), solo: c < 0.5 } }
        : { kind, channel, changes: { trim: c < 0.5, parked: c < 0.2, safe: c < 0.3 ? [pick(CONTROL_KINDS, b)] : [] } };
    case 'guard':
      return { kind, control: id, changes: b < 0.5 ? { safe: c < 0.4 } : { parked: c < 0.4 } };
    case 'settings':
      return { kind, changes: b < 0.5 ? { returnTime: c } : { loop: c < 0.5 ? null : [1, 2 + c], deskMode: null } };
    case 'mark':
      return mark(song, xs);
    case 'clip':
      return clipEdit(song, xs);
    case 'describe':
      return { kind, channel, changes: { name: `Name ${Math.round(99 * b)}`, family: pick(['Low', 'High'], c) } };
    case 'title':
      return { kind, name: `Song ${Math.round(99 * b)}` };
  }
}
