import type { Point, Range } from '../curve/index.js';
import {
  isSwitch,
  layerLaw,
  unknownControl,
  controlOf,
  type ControlId,
  type Lane,
  type Layer,
  type Song,
} from '../song/index.js';
import { rangeOf, type Law } from '../units/index.js';

/** Times that a song can have, in seconds: a day is the most. */
export const MOST_SECONDS = 86400;

/** A point as it may come from outside: a straight line where no shape is said, bent by half for an `s` (rules, 9). */
export type SparsePoint = Partial<Point>;

const isWhole = ({ shape, bend }: SparsePoint): boolean => shape !== undefined && bend !== undefined;

/** Points with the defaults of what they do not say; the same list where they say everything. */
export function pointsWithDefaults(sparse: readonly SparsePoint[] | undefined): readonly Point[] {
  if (!sparse) return [];
  if (sparse.every(isWhole)) return sparse as readonly Point[];
  return sparse.map((p) => {
    const shape = p.shape ?? 'line';
    return { ...p, t: p.t!, v: p.v!, shape, bend: p.bend ?? (shape === 's' ? 0.5 : 0) };
  });
}

/** Whether a value is none that a law has. Less than silence is silence. */
const isOutside = (law: Law, v: number): boolean => {
  if (!Number.isFinite(v)) return true;
  if (law.kind === 'switch') return v !== 0 && v !== 1;
  const { min, max } = rangeOf(law);
  return v > max || (v < min && law.kind !== 'level');
};

/** The sentence for a value that a control's layer does not take; null where it takes it. */
export function valueWrong(song: Song, id: ControlId, layer: Layer, v: number): string | null {
  const control = controlOf(song, id);
  const law = layerLaw(song, id, layer);
  if (!isOutside(law, v)) return null;
  if (isSwitch(control)) return `${id} is a switch and takes 0 or 1, not ${v}.`;
  const { min, max } = rangeOf(law);
  return `${id} takes ${min} to ${max}, not ${v}.`;
}

/** Points that something brings to one layer of a lane, and the stretch they have to lie in, if it says one. */
type Brought = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly points: readonly Point[];
  readonly span?: Range;
};

/** What is wrong with points: a value out of range, times out of order, more than two at one; null where nothing is. */
export function pointsWrong(song: Song, { control, layer, points, span }: Brought): string | null {
  const law = layerLaw(song, control, layer);
  const what = layer === 'trim' ? 'trim' : 'curve';
  for (const [i, p] of points.entries()) {
    const name = (): string => `Point ${i + 1} of the ${what} of ${control} (${p.t} s)`;
    if (!Number.isFinite(p.t) || p.t < 0 || p.t > MOST_SECONDS) return `${name()} has no time of a song.`;
    if (isOutside(law, p.v)) return `${name()} has the value ${p.v}, outside its range.`;
    if (p.part && p.part[0] > p.part[1])
      return `${name()} is the part ${p.part.join(' … ')} of its shape, back to front.`;
    if (span && (p.t < span[0] || p.t > span[1])) return `${name()} lies outside ${span[0]} … ${span[1]} s.`;
    if (i > 0 && p.t < points[i - 1]!.t) return `${name()} comes before the one it follows; sort the points by t.`;
    if (i > 1 && p.t === points[i - 2]!.t)
      return `Three points of the ${what} of ${control} share ${p.t} s; at most two may.`;
  }
  return null;
}

/** The sentence for a stretch that ends before it begins. */
export const spanWrong = (what: string, [from, to]: Range): string | null =>
  from < to ? null : `${what} ends at ${to} s, not after its beginning at ${from} s.`;

/** The sentence for a trim on what has none. */
export const trimWrong = (song: Song, id: ControlId, layer: Layer | undefined): string | null =>
  layer === 'trim' && controlOf(song, id).law.kind !== 'level' ? `${id} is not in dB, so it has no trim.` : null;

/** What is wrong with a lane that comes whole, from an edit or a document; null where nothing is. */
export function laneWrong(song: Song, control: ControlId, { rest, points, trim }: Lane): string | null {
  return (
    unknownControl(song, control) ??
    valueWrong(song, control, 'base', rest) ??
    pointsWrong(song, { control, layer: 'base', points }) ??
    (trim.length
      ? (trimWrong(song, control, 'trim') ?? pointsWrong(song, { control, layer: 'trim', points: trim }))
      : null)
  );
}

/** The first of some sentences that says anything. */
export const firstWrong = (sentences: Iterable<string | null>): string | null => {
  for (const sentence of sentences) if (sentence !== null) return sentence;
  return null;
};

/** The control and the layer that something names: there, and with such a layer. */
export const layerWrong = (song: Song, { control, layer }: { control: ControlId; layer?: Layer }): string | null =>
  unknownControl(song, control) ?? trimWrong(song, control, layer);

/** What something from outside is called in a sentence: its name where it has one of any sense. */
export const called = (name: unknown): string =>
  typeof name === 'string' ? JSON.stringify(name.slice(0, 60)) : name === null ? 'null' : `a ${typeof name}`;

/** How deep a document may be nested: what is deeper is made to break programs. */
const DEEPEST = 64;

/** Whether something is nested deeper than any document is. Goes level by level, so that it is not itself broken by it. */
export function isTooDeep(json: unknown): boolean {
  let level: unknown[] = [json];
  for (let depth = 0; level.length; depth++) {
    if (depth > DEEPEST) return true;
    const next: unknown[] = [];
    for (const one of level)
      if (one && typeof one === 'object')
        for (const inner of Object.values(one)) if (inner && typeof inner === 'object') next.push(inner);
    level = next;
  }
  return false;
}
