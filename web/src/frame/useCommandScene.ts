import { useCallback } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { CommandScene } from '../hands/commandScene.js';
import { GRID_NAMES, familyOf } from '../hands/laneFilter.js';
import { settleCutShort } from '../open/cutShort.js';
import { mendScene } from '../open/mendScene.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { store, useAppDispatch } from '../store/store.js';
import {
  askedFor,
  didSomething,
  drawingSet,
  filtered,
  findingSet,
  foldToggled,
  gridChosen,
  heightsScaled,
  keysShownSet,
  laneChosen,
  lanesChosen,
  lanesPutAway,
  numbersToggled,
  passRecalled,
  stackToggled,
  takenInHand,
  typingSet,
  wholeShown,
  zoomed,
} from '../store/viewSlice.js';
import { viewAfter } from './views.js';

/** What keys act on, as it is at the moment they are pressed. */
export function useCommandScene(): () => CommandScene {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  return useCallback((): CommandScene => {
    const { view } = store.getState();
    return {
      ...mendScene(open),
      comparison: open.comparison,
      recallPass: () => dispatch(passRecalled()),
      secPerScreen: view.secPerScreen,
      onView: open.onView.current,
      takeInHand: (id) => dispatch(takenInHand(id)),
      zoom: (sec) => {
        const { length } = open.session.recorder.song;
        dispatch(sec >= length ? wholeShown(length) : zoomed(sec));
      },
      scaleHeights: (factor) => dispatch(heightsScaled(factor)),
      showKeys: () => dispatch(keysShownSet(true)),
      typeValue: () => dispatch(typingSet(true)),
      find: () => dispatch(findingSet(true)),
      ask: (asked) => dispatch(askedFor(asked)),
      filter: view.filter,
      grid: view.grid,
      look: (changes) => dispatch(filtered(changes)),
      putLanesAway: () => {
        const isBack = view.away !== null;
        dispatch(lanesPutAway());
        dispatch(
          didSomething(
            isBack ? 'The lanes are back as they were.' : 'All lanes are put away; Shift+A brings them back.',
          ),
        );
      },
      stack: (id) => dispatch(stackToggled(id)),
      foldFamily: (channel) => dispatch(foldToggled(familyOf(channel))),
      choose: (id) => dispatch(laneChosen(id)),
      mendAlone: () => dispatch(lanesChosen([])),
      snapTo: (grid) => {
        dispatch(gridChosen(grid));
        dispatch(didSomething(`Points and ranges snap to: ${grid ? GRID_NAMES[grid].toLowerCase() : 'nothing'}.`));
      },
      showNumbers: () => dispatch(numbersToggled()),
      draw: (how) => dispatch(drawingSet(how)),
      clearMeters: () => open.meters.clear(),
      settleCutShort,
      showView: (step) => void navigate(`/songs/${open.id}/${viewAfter(pathname, step)}`),
    };
  }, [open, dispatch, navigate, pathname]);
}
