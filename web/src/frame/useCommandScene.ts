import { useCallback } from 'react';
import { useNavigate } from 'react-router';
import { ownByHands } from '@sure-hand/core/pass';
import { channelOf, controlId, type ChannelKey, type ControlId } from '@sure-hand/core/song';
import type { CommandScene } from '../hands/commandScene.js';
import { membersOf } from '../hands/families.js';
import { throwsOf, whySoQuiet } from '../hands/familyWords.js';
import { GRID_NAMES, familyOf } from '../hands/laneFilter.js';
import { snapshotOf } from '@sure-hand/core/snapshots';
import { SnapshotDoing } from '../open/snapshotDoing.js';
import { settleCutShort } from '../open/cutShort.js';
import { mendScene } from '../open/mendScene.js';
import type { OpenSong } from '../open/openSong.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { store, useAppDispatch, type AppDispatch } from '../store/store.js';
import {
  askedFor,
  deskLooked,
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
  membersToggled,
  numbersToggled,
  passRecalled,
  snapshotInHand,
  stackToggled,
  stripsWidened,
  takenInHand,
  takenInRow,
  typingSet,
  wholeShown,
  zoomed,
} from '../store/viewSlice.js';
import { viewAfter } from './views.js';

type FamilyScene = Pick<
  CommandScene,
  'widenStrips' | 'nextThrows' | 'openMembers' | 'why' | 'chooseFamily' | 'chooseGang'
>;

/** What keys of families and of the Desk act on. */
function familyScene(open: OpenSong, dispatch: AppDispatch): FamilyScene {
  const chooseAll = (channels: readonly ChannelKey[], words: string): void => {
    dispatch(lanesChosen(channels.map((key) => controlId(key, 'level'))));
    dispatch(didSomething(channels.length > 1 ? `Chosen: ${words}.` : `${words} is one channel alone.`));
  };
  return {
    widenStrips: (channel) => dispatch(stripsWidened(channel)),
    nextThrows: () => {
      const { song } = open.session.recorder;
      const all = [null, ...throwsOf(song).keys()];
      const { view } = store.getState();
      const next = all[(all.indexOf(view.desk.throws) + 1) % all.length] ?? null;
      dispatch(deskLooked({ throws: next }));
      const words = next === null ? 'what each has in hand' : `${throwsOf(song).get(next)} on every strip`;
      dispatch(didSomething(`On the Desk’s throws: ${words}.`));
    },
    openMembers: (channel) => dispatch(membersToggled(channel)),
    why: (id) => {
      const { session, control } = open;
      return whySoQuiet(session.heardSong, id, ownByHands(session.recorder, session.heardSong, control.position));
    },
    chooseFamily: (channel) => {
      const family = familyOf(channel);
      const { channels } = open.session.recorder.song;
      chooseAll(
        channels.filter((one) => familyOf(one) === family).map(({ key }) => key),
        `the family ${family}`,
      );
    },
    chooseGang: (channel) => {
      const gangs = open.session.recorder.song.gangs.filter(({ channels }) => channels.includes(channel.key));
      if (!gangs.length) return void dispatch(didSomething(`${channel.name} is in no gang.`));
      chooseAll([...new Set(gangs.flatMap(({ channels }) => channels))], `the gang ${gangs[0]!.name}`);
    },
  };
}

/** What keys of snapshots act on. */
function snapshotScene(
  open: OpenSong,
  dispatch: AppDispatch,
): Pick<CommandScene, 'snapshot' | 'takeSnapshot' | 'recall' | 'holdSnapshot' | 'updateSnapshot'> {
  const doing = new SnapshotDoing(open);
  return {
    snapshot: store.getState().view.snapshot,
    takeSnapshot: (key) => {
      dispatch(snapshotInHand(key));
      const name = snapshotOf(open.session.recorder.song, key)?.name ?? key;
      dispatch(didSomething(`Snapshot ${name} in hand: Alt+P places it, Alt+D poises it or punches it in.`));
    },
    recall: (key) => doing.recall(key),
    holdSnapshot: (key) => doing.hold(key),
    updateSnapshot: (key) => doing.update(key),
  };
}

/** Whether a control is to be seen beside a VCA or bus that is open: its channel keeps in front what it has. */
function standsBeside({ session }: OpenSong, id: ControlId): boolean {
  const { song } = session.recorder;
  const open = store.getState().view.desk.open.flatMap((key) => channelOf(song, key) ?? []);
  return open.some((channel) => membersOf(song, channel).some(({ control }) => control === id));
}

/** What keys act on, as it is at the moment they are pressed. */
export function useCommandScene(): () => CommandScene {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  return useCallback((): CommandScene => {
    open.control.finish();
    const { view } = store.getState();
    return {
      ...mendScene(open),
      comparison: open.comparison,
      tryout: open.tryout,
      guards: open.guards,
      placed: view.placed,
      ...snapshotScene(open, dispatch),
      recallPass: () => dispatch(passRecalled()),
      secPerScreen: view.secPerScreen,
      onView: open.onView.current,
      takeInHand: (id) => dispatch(standsBeside(open, id) ? takenInRow({ control: id, beside: id }) : takenInHand(id)),
      zoom: (sec) => {
        const { length } = open.session.recorder.song;
        dispatch(sec >= length ? wholeShown(length) : zoomed(sec));
      },
      scaleHeights: (factor) => dispatch(heightsScaled(factor)),
      showKeys: () => dispatch(keysShownSet(!store.getState().view.keysShown)),
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
      ...familyScene(open, dispatch),
      clearMeters: () => open.meters.clear(),
      settleCutShort,
      // From where the last key has led already, though it may not be drawn yet.
      showView: (step) => void navigate(`/songs/${open.id}/${viewAfter(location.pathname, step)}`),
    };
  }, [open, dispatch, navigate]);
}
