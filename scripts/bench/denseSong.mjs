import { Curve, linePoint } from '../../core/dist/curve/index.js';
import { readSong } from '../../core/dist/formats/index.js';

/** Points of the longest lane, and bumps of trim on the second: as many as a busy hand makes in an hour. */
export const MANY = 200_000;
export const SECOND = 80_000;
export const BUMPS = 2000;
export const DENSE_SEC = 3600;

/** A curve of so many points, evenly over so many seconds, between −32 and −8 dB. */
export function waves(n, seed, to) {
  const value = (i) => -20 + 12 * Math.sin((i * (seed % 17)) / 40 + seed);
  return Curve.of(Array.from({ length: n }, (_, i) => linePoint((to * i) / n, value(i))));
}

const bumps = () =>
  Curve.of(
    Array.from({ length: BUMPS }, (_, i) => 1.8 * i + 0.9).flatMap((t) => [
      linePoint(t - 0.45, 0),
      linePoint(t, 3),
      linePoint(t + 0.45, 0),
    ]),
  );

const lane = (points, more = {}) => ({
  rest: 0,
  points,
  trim: Curve.EMPTY,
  parked: false,
  safe: false,
  ...more,
});

const HZ = { wave: 'sine', hz: 0.5, depth: 0.1, phase: 0, on: true };

/**
 * An hour with one of everything an edit can be about, and two lanes of very many points: `a/level` of {@link MANY}, `b/level` of
 * {@link SECOND} under {@link BUMPS} bumps of trim.
 */
export function denseSong() {
  const channels = [
    {
      ...{ key: 'a', kind: 'track', mode: 'touch', sends: [{ bus: 'hall', tap: 'pre', pan: 'own' }] },
      inserts: [{ slot: 'eq', effect: 'equaliser', settings: {} }],
    },
    { key: 'b', kind: 'track', mode: 'touch' },
    { key: 'c', kind: 'track', mode: 'touch' },
    { key: 'hall', kind: 'bus' },
    { key: 'all', kind: 'vca', members: ['a', 'b'] },
    { key: 'main', kind: 'main' },
  ];
  const marks = { sections: [{ t: 0, name: 'Intro' }], notes: [{ t: 3, text: 'Louder' }] };
  const read = readSong({
    ...{ format: 'sure-hand-song', version: 1, name: 'Dense', length: DENSE_SEC, channels, ...marks },
    snapshots: [{ key: 'low', name: 'Low', values: { 'a/level': -20, 'b/level': -20 } }],
  });
  if (!read.ok) throw new Error(read.sentence);
  return {
    ...read.value,
    lanes: {
      'a/level': lane(waves(MANY, 3, DENSE_SEC)),
      'b/level': lane(waves(SECOND, 5, DENSE_SEC), { trim: bumps() }),
      'a/insert/eq/gain2': lane(Curve.of([linePoint(1, 0), linePoint(3000, 6)])),
      'b/pan': lane(Curve.of([linePoint(1, -0.2), linePoint(3000, 0.2)]), { sway: HZ }),
      'all/level': lane(Curve.of(Array.from({ length: 3000 }, (_, i) => linePoint(1.2 * i, -3 + Math.sin(i / 9))))),
    },
  };
}
