import { useMemo, useRef, type ReactNode } from 'react';
import { useLocation } from 'react-router';
import { sectionRanges } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import type { Snapshot } from '@sure-hand/core/song';
import { recalledFrom, snapshotOf } from '@sure-hand/core/snapshots';
import { meterMap } from '@sure-hand/core/time';
import { controlsWords, leftAloneWords, placesWords, placingEdit, placingOf, sectionAt } from '../hands/placing.js';
import { SnapshotDoing } from '../open/snapshotDoing.js';
import { useOfMoment } from '../open/useMoment.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { askedFor } from '../store/viewSlice.js';
import { Act } from './Act.js';

/** The snapshot in hand while the view of snapshots is open; null elsewhere. */
export function useSnapshotInView(): Snapshot | null {
  const { pathname } = useLocation();
  const song = useAppSelector((state) => state.song.song)!;
  const key = useAppSelector((state) => state.view.snapshot);
  return pathname.endsWith('/snapshots') && key !== null ? (snapshotOf(song, key) ?? null) : null;
}

/** Where a snapshot would be placed: on the sections chosen, else the range, else the section under the line. */
function useSnapshotRanges(): readonly Range[] {
  const song = useAppSelector((state) => state.song.song)!;
  const { places, range } = useViewParts('places', 'range');
  const start = useOfMoment(({ control }) => sectionAt(song, control.position).range[0]);
  return useMemo(() => {
    const sections = sectionRanges(song.sections, song.length).map((one) => one.range);
    const marked = sections.filter(([from]) => places.includes(from));
    if (marked.length) return marked;
    return [range ?? sections.find(([from]) => from === start)!];
  }, [song.sections, song.length, places, range, start]);
}

/** What placing the snapshot in hand would do, before it does; null where none is in view, or something else was just done. */
export function useSnapshotWords(): { readonly says: string; readonly more: string } | null {
  const song = useAppSelector((state) => state.song.song)!;
  const did = useAppSelector((state) => state.view.did);
  const snapshot = useSnapshotInView();
  const ranges = useSnapshotRanges();
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const words = useMemo(() => {
    if (!snapshot) return null;
    const edge = song.settings.edgeTime;
    const edit = placingEdit({ snapshot: snapshot.key }, ranges, { how: 'place', edge }, `${snapshot.name} placed`)!;
    const would = placingOf(song, edit, recalledFrom(song, snapshot).values, ranges[0]![0]);
    const on = placesWords(song, map, ranges);
    const ids = would.rows.map((row) => row.control);
    const says = ids.length
      ? `Placing ${snapshot.name} on ${on} changes ${controlsWords(song, ids)}.`
      : `${snapshot.name} would change nothing on ${on}.`;
    return { says, more: `${leftAloneWords(song, would)} Edges of ${edge} s, inside.`.trim() };
  }, [song, snapshot, ranges, map]);
  // What was just done comes first, until the forecast is another one.
  const since = useRef<{ readonly did: string | null; readonly says: string | undefined }>({ did, says: words?.says });
  if (since.current.did !== did) since.current = { did, says: words?.says };
  return words && did && since.current.says === words.says ? { says: did, more: words.says } : words;
}

/** What can be done with the snapshot in hand, in its view. */
export function SnapshotActs(): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const snapshot = useSnapshotInView();
  const placed = useAppSelector((state) => state.view.placed);
  const isRolling = useOfMoment(({ session }) => session.isRolling);
  const doing = useMemo(() => new SnapshotDoing(open), [open]);
  if (!snapshot || placed) return null;
  const ask = (how: 'place' | 'ramp'): void => void dispatch(askedFor({ what: 'place', how, snapshot: snapshot.key }));
  return (
    <>
      <Act label="On the range, or on sections (Alt+P)" onClick={() => ask('place')}>
        Place…
      </Act>
      <Act label="From what is there to its values, or back (Shift+Alt+P)" onClick={() => ask('ramp')}>
        Ramp…
      </Act>
      <Act
        label={
          isRolling
            ? 'Its values are written from now until you stop (Alt+D)'
            : 'Its values wait for the next play (Alt+D)'
        }
        onClick={() => doing.recall(snapshot.key)}
      >
        {isRolling ? 'Punch in' : 'Poise'}
      </Act>
      <Act label="Heard, and written nowhere (Shift+Alt+D)" onClick={() => doing.hold(snapshot.key)}>
        Try
      </Act>
    </>
  );
}
