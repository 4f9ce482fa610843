import { useMemo, useState } from 'react';
import { loggedLanes, sectionRanges, whyNotMade } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import { controlsOf, type ControlId, type Song } from '@sure-hand/core/song';
import { recalledFrom, snapshotOf } from '@sure-hand/core/snapshots';
import type { MeterMap } from '@sure-hand/core/time';
import {
  PLACE_SCOPES,
  controlsPlaced,
  controlsWords,
  leftAloneWords,
  placesWords,
  placingEdit,
  placingOf,
  sectionAt,
  valuesNow,
  whatWords,
  type HowPlaced,
  type PlaceScope,
  type Placing,
  type WhatPlaced,
} from '../hands/placing.js';
import { shortBars } from '../hands/reachWords.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { placingMade } from '../store/viewSlice.js';
import { useDraft } from './useDraft.js';

type Values = { readonly [id: ControlId]: number };

/** Values as they are when the sheet opens: a line that moves on, or a hand, does not change what is about to be placed. */
export function useValues(snapshot: string | undefined): {
  readonly scope: PlaceScope;
  readonly setScope: (scope: PlaceScope) => void;
  readonly counts: Record<PlaceScope, number>;
  readonly values: Values;
  readonly type: (id: ControlId, value: number) => void;
  readonly what: WhatPlaced;
} {
  const { session, control, onView } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, chosen } = useViewParts('inHand', 'chosen');
  const { recorder } = session;
  const [opened] = useState(() => {
    const scene = { recorder, inHand, chosen, onView: [...onView.current] };
    const ids = Object.fromEntries(PLACE_SCOPES.map((one) => [one, controlsPlaced(scene, one)])) as Record<
      PlaceScope,
      ControlId[]
    >;
    return { ids, values: valuesNow(recorder, [...new Set(Object.values(ids).flat())], control.position) };
  });
  const [scope, setScope] = useState<PlaceScope>(opened.ids.aside.length ? 'aside' : 'hand');
  // What has gone since is not placed, and not counted.
  const known = controlsOf(song);
  const there = useMemo(
    () =>
      Object.fromEntries(
        PLACE_SCOPES.map((one) => [one, opened.ids[one].filter((id) => known.has(id))]),
      ) as typeof opened.ids,
    [opened, known],
  );
  const [typed, setTyped] = useState<Values>({});
  const kept = snapshot === undefined ? undefined : snapshotOf(song, snapshot);
  const values = useMemo(
    (): Values =>
      kept
        ? recalledFrom(song, kept).values
        : Object.fromEntries(there[scope].map((id) => [id, typed[id] ?? opened.values[id]!])),
    [song, kept, opened, there, scope, typed],
  );
  const counts = Object.fromEntries(PLACE_SCOPES.map((one) => [one, there[one].length])) as Record<PlaceScope, number>;
  const what = useMemo((): WhatPlaced => (snapshot === undefined ? { values } : { snapshot }), [snapshot, values]);
  return { scope, setScope, counts, values, type: (id, v) => setTyped((now) => ({ ...now, [id]: v })), what };
}

/** Where values can go: the range, and every section. */
type Spot = { readonly id: string; readonly label: string; readonly range: Range };

function spotsOf(song: Song, map: MeterMap, range: Range | null, given: readonly Range[]): Spot[] {
  const sections = sectionRanges(song.sections, song.length).map(({ name, range: own }) => ({
    id: `section ${own[0]}`,
    label: name || `From ${shortBars(map, own[0])}`,
    range: own,
  }));
  const words = ([from, to]: Range): string => `${shortBars(map, from)}–${shortBars(map, to)}`;
  const ranges = range && !given.length ? [range] : given;
  const others = ranges.filter((one) => !sections.some(({ range: own }) => own[0] === one[0] && own[1] === one[1]));
  return [...others.map((one) => ({ id: `range ${one[0]}`, label: `Range ${words(one)}`, range: one })), ...sections];
}

/** Where it goes: spots to choose from, and those that are chosen. */
export function useWhere(
  song: Song,
  map: MeterMap,
  snapshot: string | undefined,
  given: readonly Range[],
): {
  readonly spots: readonly Spot[];
  readonly chosen: readonly string[];
  readonly choose: (ids: string[]) => void;
  readonly ranges: readonly Range[];
} {
  const { control } = useOpenSong();
  const { range, places } = useViewParts('range', 'places');
  const spots = useMemo(() => spotsOf(song, map, range, given), [song, map, range, given]);
  const [at] = useState(control.position);
  const marked = snapshot === undefined ? [] : places;
  const [chosen, choose] = useState<readonly string[]>(() => firstSpots(song, spots, { given, marked, range, at }));
  const ranges = useMemo(() => spots.filter(({ id }) => chosen.includes(id)).map((one) => one.range), [spots, chosen]);
  return { spots, chosen, choose, ranges };
}

/** Where it goes at first: what was asked for, else the sections chosen for a snapshot, else the range, else the section under the line. */
function firstSpots(
  song: Song,
  spots: readonly Spot[],
  asked: {
    readonly given: readonly Range[];
    readonly marked: readonly number[];
    readonly range: Range | null;
    readonly at: number;
  },
): string[] {
  const sections = sectionRanges(song.sections, song.length).map((one) => one.range);
  const marked = sections.filter(([start]) => asked.marked.includes(start));
  const told = asked.given.length ? asked.given : marked;
  const wanted = told.length ? told : [asked.range ?? sectionAt(song, asked.at).range];
  return spots
    .filter(({ range: own }) => wanted.some((one) => one[0] === own[0] && one[1] === own[1]))
    .map(({ id }) => id);
}

/** How values come in: edges of a placing; way, shape and what comes after of a ramp. */
export type Manner = {
  readonly edge: number;
  readonly shape: 'line' | 's' | 'bend';
  readonly bend: number;
  readonly after: 'resume' | 'next' | 'end';
  readonly towards: 'value' | 'old';
};

/** What a sheet begins with, but for the song’s edge time. */
export const USUAL: Manner = { edge: 0, shape: 'line', bend: 0.5, after: 'resume', towards: 'value' };

const mannerOf = (how: 'place' | 'ramp', { edge, shape, bend, after, towards }: Manner): HowPlaced =>
  how === 'place'
    ? { how, edge }
    : { how, shape, bend: shape === 'line' ? 0 : bend, after: towards === 'old' ? 'resume' : after, towards };

/** What is placed, counted: `31 controls of 7 channels`. */
export const countedWords = (song: Song, what: WhatPlaced, ids: readonly ControlId[]): string =>
  'snapshot' in what ? `${whatWords(song, what)}, ${controlsWords(song, ids)}` : controlsWords(song, ids);

/** What is asked for: what, how, and where. */
export type Asked = {
  readonly song: Song;
  readonly map: MeterMap;
  readonly how: 'place' | 'ramp';
  readonly what: WhatPlaced;
  readonly values: Values;
  readonly ranges: readonly Range[];
  readonly manner: Manner;
};

/** What it would do, heard and drawn as long as the sheet is open, and what does it. */
export function usePlacing(
  { song, map, how, what, values, ranges, manner }: Asked,
  onClose: () => void,
): { readonly would: Placing | null; readonly wrong: string | null; readonly keep: () => void } {
  const { comparison, tryout } = useOpenSong();
  const dispatch = useAppDispatch();
  const name = how === 'place' ? `${whatWords(song, what)} placed` : `Ramp of ${whatWords(song, what)}`;
  const edit = useMemo(() => placingEdit(what, ranges, mannerOf(how, manner), name), [what, ranges, how, manner, name]);
  // What was to be placed may have gone meanwhile.
  const wrong = useMemo(() => edit && whyNotMade(song, edit), [song, edit]);
  const would = useMemo(
    () => (edit && wrong === null ? placingOf(song, edit, values, ranges[0]![0]) : null),
    [song, edit, wrong, values, ranges],
  );
  const kept = useDraft(edit);
  const keep = (): void => {
    if (!edit || !would?.rows.length) return;
    const ids = would.rows.map((row) => row.control);
    const act = how === 'place' ? 'Placed' : 'Ramped';
    const on = placesWords(song, map, ranges);
    const says = `${act}: ${countedWords(song, what, ids)} on ${on}. ${leftAloneWords(song, would)}`.trim();
    const { changed, song: after } = kept(says);
    if (changed.length) {
      comparison.passMade({ number: null, lanes: loggedLanes(song, after, changed) });
      tryout.drop(changed);
      dispatch(placingMade({ says, ranges }));
    }
    onClose();
  };
  return { would, wrong, keep };
}
