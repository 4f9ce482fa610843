import { applyEdit, sectionRanges, whyNotPlaced, type CurveEdit, type Edit } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import { baseInHand, type PassRecorder } from '@sure-hand/core/pass';
import { controlsOf, fullName, ownValueAt, type ControlId, type Refusal, type Song } from '@sure-hand/core/song';
import { snapshotOf, valuesTaken } from '@sure-hand/core/snapshots';
import type { MeterMap } from '@sure-hand/core/time';
import { travelOf, type Seconds } from '@sure-hand/core/units';
import { togetherWith } from './picking.js';
import { reachWords, shortBars } from './reachWords.js';
import { wasRefused } from './reasonWords.js';

/** Which controls values are placed of (rules, 6). */
export const PLACE_SCOPES = ['hand', 'view', 'aside', 'writing', 'all'] as const;
export type PlaceScope = (typeof PLACE_SCOPES)[number];
export const PLACE_SCOPE_NAMES: Record<PlaceScope, string> = {
  hand: 'In hand',
  view: 'Lanes on view',
  aside: 'Held aside',
  writing: 'Being written',
  all: 'All that may be written',
};

/** What a scope is told from. */
export type PlaceScene = {
  readonly recorder: PassRecorder;
  readonly inHand: ControlId | null;
  readonly chosen: readonly ControlId[];
  /** What stands in front in the rows on view. */
  readonly onView: readonly ControlId[];
};

/** The controls of a scope, in the song's order. */
export function controlsPlaced({ recorder, inHand, chosen, onView }: PlaceScene, scope: PlaceScope): ControlId[] {
  const { song, roll, tryout } = recorder;
  const known = controlsOf(song);
  const inOrder = (ids: ReadonlySet<ControlId>): ControlId[] => [...known.keys()].filter((id) => ids.has(id));
  switch (scope) {
    case 'hand':
      return inHand ? inOrder(new Set(togetherWith(inHand, chosen))) : [];
    case 'view':
      return inOrder(new Set(onView));
    case 'aside':
      return inOrder(new Set(tryout.held.keys()));
    case 'writing':
      return inOrder(new Set(roll?.takes.filter((take) => take.isOpen).map((take) => take.control)));
    case 'all':
      return [...known.keys()].filter((id) => whyNotPlaced(song, id) === null);
  }
}

/** The values that controls have now, under the line: the hand's where one has it. */
export const valuesNow = (recorder: PassRecorder, ids: readonly ControlId[], t: Seconds): { [id: ControlId]: number } =>
  valuesTaken(recorder.song, ids, t, (id) => baseInHand(recorder, id, t));

/** What is placed: values by control, or a snapshot by its key. */
export type WhatPlaced = { readonly values: { readonly [id: ControlId]: number } } | { readonly snapshot: string };

/** How values come in: one value with edges, or a ramp to it, or from it. */
export type HowPlaced =
  | { readonly how: 'place'; readonly edge: Seconds }
  | {
      readonly how: 'ramp';
      readonly shape: 'line' | 's' | 'bend';
      readonly bend: number;
      readonly after: 'resume' | 'next' | 'end';
      readonly towards: 'value' | 'old';
    };

/** The edit that puts values into ranges, as one step; null where there is nothing to put, or nowhere. */
export function placingEdit(what: WhatPlaced, ranges: readonly Range[], how: HowPlaced, name: string): Edit | null {
  if ('values' in what && !Object.keys(what.values).length) return null;
  const edits = ranges.map((range): CurveEdit => {
    if (how.how === 'place') return { kind: 'place', ...what, range, edge: how.edge };
    const { how: _how, ...more } = how;
    return { kind: 'ramp', ...what, range, ...more };
  });
  if (edits.length < 2) return edits[0] ?? null;
  return { kind: 'together', edits, as: `${name} on ${edits.length} places` };
}

/** The section that a time lies in. */
export const sectionAt = (song: Song, t: Seconds): { readonly name: string; readonly range: Range } => {
  const sections = sectionRanges(song.sections, song.length);
  return sections.find(({ range }) => t >= range[0] && t < range[1]) ?? sections.at(-1)!;
};

/** Where ranges lie: a section by its name, anything else by its bars; of several, how many. */
export function placesWords(song: Song, map: MeterMap, ranges: readonly Range[]): string {
  const words = ranges.map((range) => {
    const section = sectionRanges(song.sections, song.length).find(
      ({ range: own }) => own[0] === range[0] && own[1] === range[1],
    );
    return section?.name ? section.name : `${shortBars(map, range[0])}–${shortBars(map, range[1])}`;
  });
  return words.length > 3
    ? `${words[0]} and ${words.length - 1} more`
    : words.join(', ').replace(/, ([^,]*)$/, ' and $1');
}

/** One control that a placing changes: what it is at where that begins, and what it comes to be. */
export type PlacedRow = { readonly control: ControlId; readonly from: number; readonly to: number };

/** What a placing would do: each control with its values, the furthest apart first; how many stay, being so already; what is left alone. */
export type Placing = {
  readonly rows: readonly PlacedRow[];
  readonly alike: number;
  readonly refused: readonly Refusal[];
  readonly gone: readonly ControlId[];
};

/** Asks the core what a placing would do, before it does. */
export function placingOf(song: Song, edit: Edit, values: { readonly [id: ControlId]: number }, at: Seconds): Placing {
  const { changed, refused, gone = [] } = applyEdit(song, edit);
  const known = controlsOf(song);
  const rows = changed.map((control) => ({ control, from: ownValueAt(song, control, at).base, to: values[control]! }));
  const far = ({ control, from, to }: PlacedRow): number => {
    const { law } = known.get(control)!;
    return Math.abs(travelOf(law, to) - travelOf(law, from));
  };
  const asked = Object.keys(values).filter((id) => known.has(id)).length;
  return {
    rows: rows
      .map((row) => ({ row, by: far(row) }))
      .sort((a, b) => b.by - a.by)
      .map(({ row }) => row),
    alike: asked - changed.length - refused.length,
    refused,
    gone,
  };
}

/** What is left alone, by name while it is little; nothing where nothing is. */
export function leftAloneWords(song: Song, { refused, gone, alike }: Omit<Placing, 'rows'>): string {
  const known = refused.slice(0, 2).map(({ control, reason }) => `${fullName(song, control)} (${wasRefused(reason)})`);
  const more = refused.length > 2 ? ` and ${refused.length - 2} more` : '';
  return [
    refused.length ? `Left alone: ${known.join(', ')}${more}.` : '',
    gone.length ? `${gone.length} of its controls ${gone.length === 1 ? 'is' : 'are'} not in the song any more.` : '',
    alike > 0 ? `${alike} ${alike === 1 ? 'is' : 'are'} so already.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}

/** Controls by name or number: `Lead level`, `31 controls of 7 channels`. */
export const controlsWords = (song: Song, ids: readonly ControlId[]): string =>
  reachWords(song, {
    lanes: ids.map((control) => ({ control, layer: 'base' as const })),
    channels: new Set(ids.map((id) => controlsOf(song).get(id)?.channel)).size,
  });

/** What is placed, by name: the snapshot's, or its controls'. */
export const whatWords = (song: Song, what: WhatPlaced): string =>
  'snapshot' in what
    ? (snapshotOf(song, what.snapshot)?.name ?? what.snapshot)
    : controlsWords(song, Object.keys(what.values));
