import { Curve } from '../../core/dist/curve/index.js';
import { EDIT_KINDS, applyEdit, nameOfEdit } from '../../core/dist/edits/index.js';
import { readEdit } from '../../core/dist/formats/index.js';
import { BUMPS, DENSE_SEC, MANY, SECOND, denseSong } from './denseSong.mjs';
import { figure, median } from './figures.mjs';

const MUST_MS = 300;
/** Where all of a curve is drawn anew from more than itself, or two edits are one. */
const ANEW_MS = 1000;
const ANEW = new Set(['foldVca', 'vca', 'printSway', 'shape', 'together', 'copy']);
/** How often an edit is done that is about a whole lane, and how many of each kind's own examples are. */
const TIMES = 5;
const EXAMPLES = 8;
const DRAWS = 300;

/** Numbers 0 … 1, the same ones each time. */
function drawing(seed) {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
}

const A = 'a/level';
const B = 'b/level';
const WHOLE = [0, DENSE_SEC];

/** What each kind is asked at its largest: of all points of the longest lanes; several of some. Kinds that write no curve have none. */
function wholeEdits(song) {
  const { points } = song.lanes[A];
  const louder = Curve.of([...points].map((p) => ({ ...p, v: p.v + 1 })));
  const lifted = { kind: 'lift', controls: [A, B], range: WHOLE, travel: 0.02, edge: 0.5 };
  const piece = { control: A, layer: 'base', span: WHOLE, points: louder };
  const receipt = {
    ...{ lap: 0, from: 0, to: DENSE_SEC, refused: [], rested: [] },
    lanes: [
      {
        ...{ control: A, layer: 'base', spans: [WHOLE], moves: MANY, points: MANY },
        ...{ maxDeviation: 0, clamped: [] },
      },
    ],
  };
  const track = song.channels.find(({ key }) => key === 'a');
  const vca = song.channels.find(({ key }) => key === 'all');
  return [
    [
      `${MANY.toLocaleString('en')} points replaced`,
      { kind: 'points', control: A, remove: pairs(points), add: louder },
    ],
    [
      `${BUMPS.toLocaleString('en')} bumps of trim folded into ${SECOND.toLocaleString('en')} points`,
      { kind: 'foldTrim', controls: [B] },
    ],
    ['place', { kind: 'place', range: WHOLE, values: { [A]: -6, [B]: -6 } }],
    ['ramp', { kind: 'ramp', range: WHOLE, values: { [A]: -6, [B]: -6 }, towards: 'value', after: 'end' }],
    ['ramp to the old', { kind: 'ramp', range: [0, 1800], values: { [A]: -6 }, towards: 'old' }],
    ['lift', lifted],
    ['move', { kind: 'move', controls: [A, B], by: { t: 0.001, travel: 0.01 } }],
    [
      'move of every point by its time',
      { kind: 'move', controls: [A], points: { [A]: [...points.t] }, by: { t: 0, travel: 0.01 } },
    ],
    [
      'move of every other point',
      {
        kind: 'move',
        controls: [A],
        points: { [A]: [...points.t].filter((_, i) => i % 2) },
        by: { t: 0.002, travel: 0.01 },
      },
    ],
    ['scale', { kind: 'scale', controls: [A, B], factor: 0.9 }],
    ['clear', { kind: 'clear', controls: [A, B], range: [1, DENSE_SEC - 1] }],
    [
      'clear of every other point',
      { kind: 'clear', controls: [A], points: { [A]: [...points.t].filter((_, i) => i % 2) } },
    ],
    ['copy', { kind: 'copy', from: A, range: [0, 1800], to: 'c/level', at: 1800 }],
    ['copy into a trim', { kind: 'copy', from: A, range: [0, 1800], to: B, toLayer: 'trim', at: 1800 }],
    ['thin', { kind: 'thin', controls: [A, B], tolerance: 0.005 }],
    ['thin, all of it within the tolerance', { kind: 'thin', controls: [A, B], tolerance: 0.5 }],
    ['shape', { kind: 'shape', control: A, range: WHOLE, wave: 'sine', perBeat: 1, depth: 0.1, centre: 0.5 }],
    ['draw', { kind: 'draw', pieces: [piece] }],
    ['together', { kind: 'together', edits: [lifted, { kind: 'scale', controls: [A, B], factor: 0.9 }] }],
    ['foldVca', { kind: 'foldVca', vca: 'all' }],
    ['carry', { kind: 'carry', control: A, from: 1, to: DENSE_SEC - 1, return: 0.5 }],
    [
      'bringBack',
      {
        kind: 'bringBack',
        what: 'a lift',
        side: 'before',
        versions: [{ control: A, layer: 'base', points: louder, rest: 0, range: [10, DENSE_SEC - 10] }],
      },
    ],
    ['pass', { kind: 'pass', pieces: [piece], receipt }],
    ['lanes', { kind: 'lanes', lanes: { [A]: { ...song.lanes[A], points: louder } } }],
    ['printSway', { kind: 'printSway', control: 'b/pan' }],
    ['removeChannel', { kind: 'removeChannel', channel: 'a' }],
    [
      'addChannel',
      {
        kind: 'addChannel',
        channel: { ...track, key: 'd', sends: [], inserts: [] },
        lanes: { 'd/level': song.lanes[A] },
      },
    ],
    ['vca', { kind: 'vca', remove: vca, add: null, fold: true }],
  ];
}
const pairs = (points) => [...points].map(({ t, v }) => ({ t, v }));

/** Reads an edit as one from outside and does it, then takes it back and does it again; how long the longest of the three took. */
function took(song, edit) {
  const given = { ...edit };
  const began = performance.now();
  const checked = readEdit(song, given);
  if (!checked.ok) return { sentence: checked.sentence };
  const { song: after, inverse, changed } = applyEdit(song, checked.value);
  const done = performance.now() - began;
  nameOfEdit(song, checked.value, null);
  if (!inverse) return { done, changed };
  const back = performance.now();
  applyEdit(after, inverse);
  return { done: Math.max(done, performance.now() - back), changed };
}

/** Every kind of edit on a song with lanes of very many points: checked and done, and taken back. */
export function editSizes() {
  const song = denseSong();
  const whole = wholeEdits(song);
  const say = (kind, name, value, note) => {
    const must = ANEW.has(kind) ? ANEW_MS : MUST_MS;
    figure({ name, value, unit: 'ms', must, better: 'less', note });
  };
  for (const [name, edit] of whole) {
    const runs = Array.from({ length: TIMES }, () => took(song, edit));
    const [{ sentence, changed }] = runs;
    if (sentence !== undefined) throw new Error(`${name}: ${sentence}`);
    if (!changed.length) throw new Error(`${name} changed nothing.`);
    const of = edit.kind === 'points' || edit.kind === 'foldTrim' ? name : `${name} of lanes of very many points`;
    say(edit.kind, of, median(runs.map(({ done }) => done)), 'checked and done, or taken back');
  }
  for (const { kind, example } of EDIT_KINDS) {
    const next = drawing(kind.length * 7919 + kind.charCodeAt(0));
    const runs = [];
    for (let n = 0; n < DRAWS && runs.length < EXAMPLES; n++) {
      const { done } = took(song, example(song, Array.from({ length: 8 }, next)));
      if (done !== undefined) runs.push(done);
    }
    if (!runs.length) throw new Error(`No example of ${kind} could be had.`);
    say(kind, `${kind} anywhere in that song`, Math.max(...runs), `the slowest of ${runs.length}`);
  }
}
