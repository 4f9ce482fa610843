import {
  channelNamed,
  channelOf,
  controlId,
  controlsOf,
  likeOn,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { snapshotOf } from '@sure-hand/core/snapshots';
import { pickedOf } from '../hands/picking.js';
import type { DeskView, OpenLanes, ViewState } from './viewSlice.js';

type PlacingView = Pick<ViewState, 'snapshot' | 'against' | 'places' | 'range'>;

/** Where a hand goes on when what it had is not there any more: to its channel's level, or the first channel's. */
function inHandWithin(inHand: ControlId | null, song: Song): ControlId | null {
  const known = controlsOf(song);
  if (inHand === null || known.has(inHand)) return inHand;
  const own = controlId(channelNamed(inHand), 'level');
  return known.has(own) ? own : ([...known.keys()][0] ?? null);
}

/** Open lanes as far as the song has them. */
function openWithin({ front, stacked, pinned }: OpenLanes, song: Song): OpenLanes {
  const known = controlsOf(song);
  const lanes = Object.entries(stacked).map(([key, ids]) => [key, ids.filter((id) => known.has(id))] as const);
  return {
    front: Object.fromEntries(Object.entries(front).filter(([, id]) => known.has(id))),
    stacked: Object.fromEntries(lanes.filter(([, ids]) => ids.length > 0)),
    pinned: pinned.filter((key) => channelOf(song, key)),
  };
}

/** The Desk as far as the song has it. */
function deskWithin(desk: DeskView, song: Song): DeskView {
  const isThere = (key: string): boolean => channelOf(song, key) !== undefined;
  const own = Object.fromEntries(Object.entries(desk.own).filter(([key]) => isThere(key)));
  const vca = desk.vca !== null && isThere(desk.vca) ? desk.vca : null;
  const hasLike = (like: string): boolean => song.channels.some((channel) => likeOn(song, channel, like));
  const throws = desk.throws !== null && hasLike(desk.throws) ? desk.throws : null;
  return { ...desk, own, vca, throws, open: desk.open.filter(isThere) };
}

/** What snapshots are placed on, as far as the song has it. */
function placingWithin({ snapshot, against, places, range }: PlacingView, song: Song): PlacingView {
  const known = (key: string | null): string | null => (key !== null && snapshotOf(song, key) ? key : null);
  return {
    snapshot: known(snapshot),
    against: known(against),
    places: places.filter((t) => song.sections.some((section) => section.t === t)),
    range: range && range[1] <= song.length ? range : null,
  };
}

/** The view without what has gone from the song: nothing of it names a control or a channel that is not there. */
export function viewWithin(view: ViewState, song: Song): ViewState {
  const known = controlsOf(song);
  const isThere = ({ control }: { readonly control: ControlId }): boolean => known.has(control);
  const { pass } = view;
  const told = pass ? [...pass.receipt.lanes, ...pass.receipt.refused, ...pass.lanes] : [];
  const spans = view.spanChanges.every((change) => 'shift' in change || change.carries.every(isThere));
  const isPassThere = told.every(isThere) && (pass?.receipt.rested ?? []).every((id) => known.has(id));
  return {
    ...view,
    inHand: inHandWithin(view.inHand, song),
    ...openWithin(view, song),
    desk: deskWithin(view.desk, song),
    away: view.away && openWithin(view.away, song),
    chosen: view.chosen.filter((id) => known.has(id)),
    ...placingWithin(view, song),
    picked: view.picked && pickedOf(view.picked.lanes.filter(isThere), view.picked.isPass),
    ...(isPassThere && spans ? {} : { pass: null, isPassTold: false, spanChanges: [] }),
  };
}
