import { useCallback, useMemo, useState, type ReactNode } from 'react';
import { Outlet, useLocation, useNavigate } from 'react-router';
import { troubleCame } from '../song/songSlice.js';
import { changedKeys, keepChangedKeys, withKeys } from '../hands/commands.js';
import type { CommandScene } from '../hands/commandScene.js';
import { AskedSheet } from './AskedSheet.js';
import { settleCutShort } from '../open/cutShort.js';
import { CommandKeys } from './CommandKeys.js';
import { FindControl } from './FindControl.js';
import { HandBar } from './HandBar.js';
import { KeysSheet } from './KeysSheet.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { store, useAppDispatch, useAppSelector } from '../store/store.js';
import { TopBar } from './TopBar.js';
import {
  askedFor,
  didSomething,
  findingSet,
  heightsScaled,
  keysShownSet,
  passRecalled,
  pointsPicked,
  rangeSet,
  takenInHand,
  typingSet,
  wholeShown,
  zoomed,
} from '../store/viewSlice.js';
import { viewAfter } from './views.js';

/** What keys act on, as it is at the moment they are pressed. */
function useCommandScene(): () => CommandScene {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const { pathname } = useLocation();
  return useCallback((): CommandScene => {
    const { view } = store.getState();
    return {
      song: open.session.recorder.song,
      control: open.control,
      inHand: view.inHand,
      range: view.range,
      receipt: view.pass?.stands ? view.pass.receipt : null,
      carries: view.carries,
      comparison: open.comparison,
      picked: view.picked,
      pick: (picked) => dispatch(pointsPicked(picked)),
      did: (sentence) => dispatch(didSomething(sentence)),
      say: (sentence) => dispatch(troubleCame(sentence)),
      recallPass: () => dispatch(passRecalled()),
      secPerScreen: view.secPerScreen,
      onView: open.onView.current,
      takeInHand: (id) => dispatch(takenInHand(id)),
      setRange: (range) => dispatch(rangeSet(range)),
      zoom: (sec) => {
        const { length } = open.session.recorder.song;
        dispatch(sec >= length ? wholeShown(length) : zoomed(sec));
      },
      scaleHeights: (factor) => dispatch(heightsScaled(factor)),
      showKeys: () => dispatch(keysShownSet(true)),
      typeValue: () => dispatch(typingSet(true)),
      find: () => dispatch(findingSet(true)),
      ask: (asked) => dispatch(askedFor(asked)),
      clearMeters: () => open.meters.clear(),
      settleCutShort,
      showView: (step) => void navigate(`/songs/${open.id}/${viewAfter(pathname, step)}`),
    };
  }, [open, dispatch, navigate, pathname]);
}

/** What stands round every view of a song: the top, the hand bar, and the keys, which act wherever one is. */
export function SongFrame(): ReactNode {
  const dispatch = useAppDispatch();
  const keysShown = useAppSelector((state) => state.view.keysShown);
  const finding = useAppSelector((state) => state.view.finding);
  const [changed, setChanged] = useState(changedKeys);
  const commands = useMemo(() => withKeys(changed), [changed]);
  const scene = useCommandScene();
  return (
    <div className="frame">
      <CommandKeys commands={commands} scene={scene} />
      <TopBar />
      <Outlet />
      <AskedSheet />
      <HandBar />
      <KeysSheet
        opened={keysShown}
        commands={commands}
        onClose={() => dispatch(keysShownSet(false))}
        onChange={(keys) => {
          keepChangedKeys(keys);
          setChanged(keys);
        }}
      />
      <FindControl
        opened={finding}
        onClose={() => dispatch(findingSet(false))}
        onFound={(id) => dispatch(takenInHand(id))}
      />
    </div>
  );
}
