import { cutOut, placesIn, valueArriving, type Range } from '../curve/index.js';
import { controlsOf, laneOf, type ControlId, type Refusal, type Song } from '../song/index.js';
import { snapshotOf } from '../snapshots/index.js';
import { travelOf, type Seconds, type Travel } from '../units/index.js';
import { valuesPlaced } from './placing.js';
import type { Receipt } from './kinds/pass.js';
import type { PlaceEdit } from './kinds/place.js';
import type { RampEdit } from './kinds/ramp.js';
import type { Edit } from './registry.js';

/** What of a placing or a ramp stands in the log beside the passes: which values went where, and of which snapshot they were. */
export type PlacedEntry = {
  readonly kind: 'place' | 'ramp';
  readonly snapshot: { readonly key: string; readonly name: string } | null;
  readonly ranges: readonly Range[];
  /** How long the edges of a placing are, at most half of each range. */
  readonly edge: Seconds;
  readonly values: { readonly [id: ControlId]: number };
};

/** The placings and ramps that an edit is made of; none where it is, or has in it, anything else. */
function placingsOf(edit: Edit): readonly (PlaceEdit | RampEdit)[] {
  const all = edit.kind === 'together' ? edit.edits : [edit];
  const placings = all.filter((one) => one.kind === 'place' || one.kind === 'ramp');
  return placings.length === all.length ? placings : [];
}

/** Whether an edit leaves an entry in the log: a pass, a placing, a ramp. */
export const isLogged = (edit: Edit): boolean => edit.kind === 'pass' || placingsOf(edit).length > 0;

/** What an edit leaves in the log besides its curves, on the song that it is made on; null of one that is no placing. */
export function placedEntry(song: Song, edit: Edit): PlacedEntry | null {
  const placings = placingsOf(edit);
  const [first] = placings;
  if (!first) return null;
  const one = first.snapshot === undefined ? undefined : snapshotOf(song, first.snapshot);
  const isAlike = placings.every(({ kind, snapshot }) => kind === first.kind && snapshot === first.snapshot);
  return {
    kind: first.kind,
    snapshot: one && isAlike ? { key: one.key, name: one.name } : null,
    ranges: placings.map(({ range }) => range),
    edge: first.kind === 'place' ? (first.edge ?? song.settings.edgeTime) : 0,
    values: Object.assign(
      {},
      ...placings.map((placing) => valuesPlaced(song, placing).values),
    ) as PlacedEntry['values'],
  };
}

/** A placing as a pass's receipt has it: where it wrote which lanes, how many points stand there then, what it left alone. */
export function placedReceipt(
  after: Song,
  { ranges }: PlacedEntry,
  changed: readonly ControlId[],
  refused: readonly Refusal[],
): Receipt {
  const spans = [...ranges].sort(([a], [b]) => a - b);
  const lanes = changed.map((control) => {
    const { points } = laneOf(after, control);
    const count = spans.reduce((sum, span) => {
      const [first, end] = placesIn(points, span);
      return sum + end - first;
    }, 0);
    return { control, layer: 'base' as const, spans, moves: 0, points: count, maxDeviation: 0, clamped: [] };
  });
  return { lap: 0, from: spans[0]![0], to: spans.at(-1)![1], lanes, refused: [...refused], rested: [] };
}

/** How far a curve may be from what was placed to count as that, in travel: what cutting and joining costs. */
const SAME_TRAVEL: Travel = 1e-7;

/**
 * Whether what was placed on a range stands there as it was: of a placing between its edges, of a ramp where it ends. Controls that
 * are gone, or were left alone, say nothing.
 */
export function isAsPlaced(song: Song, { kind, edge, values }: PlacedEntry, [from, to]: Range): boolean {
  const known = controlsOf(song);
  return Object.entries(values).every(([id, v]) => {
    const control = known.get(id);
    if (!control) return true;
    const { law } = control;
    const { points, rest } = laneOf(song, id);
    const isOther = (value: number): boolean => Math.abs(travelOf(law, value) - travelOf(law, v)) > SAME_TRAVEL;
    if (kind === 'ramp') return !isOther(valueArriving(points, law, rest, to));
    const run = law.kind === 'switch' ? 0 : Math.min(edge, (to - from) / 2);
    if (to - run <= from + run) return true;
    return !cutOut(points, law, rest, [from + run, to - run]).v.some(isOther);
  });
}
