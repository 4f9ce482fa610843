import { createListenerMiddleware, isAnyOf } from '@reduxjs/toolkit';
import type { ViewState } from './viewSlice.js';
import { keepTour } from './tourShelf.js';
import * as view from './viewSlice.js';

/** What of the view is kept in the browser, for each song: all but what belongs to the moment. */
type KeptView = Omit<
  ViewState,
  | 'keysShown'
  | 'typing'
  | 'finding'
  | 'asked'
  | 'pass'
  | 'isPassTold'
  | 'did'
  | 'placed'
  | 'tour'
  | 'spanChanges'
  | 'picked'
  | 'drawing'
>;
type Seen = { readonly song: { readonly id: number | null }; readonly view: ViewState };

const keyOf = (songId: number): string => `sure-hand/view/${songId}`;

/** The view of a song as it was left; empty where there is none, or where the browser keeps nothing. */
export function keptView(songId: number): Partial<KeptView> {
  try {
    return JSON.parse(localStorage.getItem(keyOf(songId)) ?? '{}') as Partial<KeptView>;
  } catch {
    return {};
  }
}

/** Keeps the view of the open song as it changes. */
export const viewKeeping = createListenerMiddleware();

viewKeeping.startListening({
  matcher: isAnyOf(
    view.takenInHand,
    view.rowTaken,
    view.takenAsWell,
    view.laneChosen,
    view.lanesChosen,
    view.stackToggled,
    view.lanesPutAway,
    view.filtered,
    view.gridChosen,
    view.deskLooked,
    view.stripsWidened,
    view.membersToggled,
    view.liftEdgeSet,
    view.numbersToggled,
    view.pinToggled,
    view.foldToggled,
    view.zoomed,
    view.wholeShown,
    view.heightsScaled,
    view.headsDrawn,
    view.formatChosen,
    view.rangeSet,
    view.schemeToggled,
    view.snapshotInHand,
    view.comparedWith,
    view.placesChosen,
  ),
  effect: (_action, api) => {
    const { song, view: now } = api.getState() as Seen;
    if (song.id === null) return;
    const { keysShown: _keys, typing: _typing, finding: _finding, asked: _asked, ...rest } = now;
    const {
      pass: _pass,
      isPassTold: _told,
      did: _did,
      placed: _placed,
      tour: _tour,
      spanChanges: _changes,
      ...more
    } = rest;
    const { picked: _picked, drawing: _drawing, ...kept } = more;
    try {
      localStorage.setItem(keyOf(song.id), JSON.stringify(kept satisfies KeptView));
    } catch {
      // A browser that keeps nothing still shows everything.
    }
  },
});

viewKeeping.startListening({
  actionCreator: view.tourMoved,
  effect: ({ payload }) => keepTour(payload),
});
