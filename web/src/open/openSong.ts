import type { WavInfo } from '@sure-hand/core/formats';
import type { PeakPyramid } from '@sure-hand/core/mix';
import type { ControlId, Song } from '@sure-hand/core/song';
import type { ShelvedFile } from '@sure-hand/server';
import { MeterHold } from '../engine/meterHold.js';
import { PageClock } from '../engine/pageClock.js';
import { SongEngine } from '../engine/songEngine.js';
import type { Comparison } from '../hands/comparison.js';
import { Drafting } from '../hands/drafting.js';
import { GuardDoing } from '../hands/guardDoing.js';
import type { HandSession } from '../hands/handSession.js';
import { SongControl } from '../hands/songControl.js';
import { TryingOut } from '../hands/tryingOut.js';
import { PassJournalist } from '../song/passJournal.js';
import { fetchPass, songUrl } from '../song/songApi.js';
import { songFailed, troubleStays } from '../song/songSlice.js';
import { outbox, songSync, store, whenPageMayBeLeft } from '../store/store.js';
import { onSongChange } from '../store/telling.js';
import { passNumbered, passRecalled, playBegan } from '../store/viewSlice.js';
import { keepAside, takeUpAside } from './asideKeeping.js';
import { lookForCutShort } from './cutShort.js';
import { Word, followStore, handsOn, say, type Hands } from './handsOn.js';
import { MoreStems } from './moreStems.js';
import type { PassTelling } from './passTelling.js';
import { showProbe } from './probe.js';
import { SongFiles } from './songFiles.js';
import { fetchAllPeaks } from './waveforms.js';
import { workAhead } from './workAhead.js';

/** The open song as the views work with it: engine, hands, waveforms, and word of every change of the hands. */
export type OpenSong = {
  readonly id: number;
  readonly engine: SongEngine;
  readonly session: HandSession;
  readonly control: SongControl;
  readonly comparison: Comparison;
  readonly drafting: Drafting;
  readonly tryout: TryingOut;
  readonly guards: GuardDoing;
  /** Stems dropped into the song while it is open. */
  readonly stems: MoreStems;
  readonly peaks: ReadonlyMap<string, PeakPyramid>;
  /** Highest peaks and what went over, for all meters there are. */
  readonly meters: MeterHold;
  /** Controls in the order Tab goes through them, as the view that is open has them. */
  readonly onView: { current: readonly ControlId[] };
  /** Calls back whenever a hand, a span or the transport has changed; gives back what ends it. */
  readonly subscribe: (listener: () => void) => () => void;
  readonly version: () => number;
};

/** How often the output's clock is read while the song stands. */
const CLOCK_EVERY_MS = 120;

/** What ends something that was begun. */
type End = () => void;

/**
 * Sets up everything a song needs once its document is there; `close` is a stop, with all that a stop does. What plays it is
 * still starting: where that fails, the song has failed to open.
 */
export function openSong(id: number, song: Song): { open: OpenSong; close: End } {
  const { files } = store.getState().song;
  const engine = new SongEngine({ url: songUrl(id), song, files: playable(files) });
  engine.started.catch((error: unknown) => store.dispatch(songFailed((error as Error).message)));
  const clock = new PageClock();
  const word = new Word();
  const hands = handsOn(id, song, { engine, clock, word, journal: new PassJournalist(id) });
  const { session, comparison, telling } = hands;
  const control = controlOver(hands, engine);
  const tryout = new TryingOut(session);
  const hideProbe = showProbe(engine, session, () => store.getState().song);
  const peaks = new Map<string, PeakPyramid>();
  const onPeaks = (name: string, pyramid: PeakPyramid): void => {
    peaks.set(name, pyramid);
    word.changed();
  };
  const songFiles = new SongFiles(id, Object.keys(files), engine, onPeaks);
  sayMissing(files);
  const ends = [
    leavesWithThePage(control),
    comesInOrder(control),
    followStore({ id, song, hands, word, onChannels: (now) => songFiles.follow(now) }),
    followServer(id, hands),
    fetchAllPeaks(id, Object.keys(playable(files)), onPeaks),
    () => songFiles.end(),
    readClock(session, engine),
    keepAside(id, tryout, (listener) => word.subscribe(listener)),
  ];
  takeUpAside(id, song, tryout, (sentence) => telling.did(sentence));
  void recallPass(id, session, telling);
  const open: OpenSong = {
    ...{ id, engine, session, control, comparison, peaks },
    drafting: new Drafting({ session, comparison, control }),
    tryout,
    guards: new GuardDoing(session, control, (sentence) => telling.did(sentence)),
    stems: new MoreStems({
      songId: id,
      files: songFiles,
      song: () => session.recorder.song,
      makeEdit: (edit) => songSync.make(edit),
    }),
    meters: new MeterHold(),
    onView: { current: [] },
    version: () => word.version,
    subscribe: (listener) => word.subscribe(listener),
  };
  const close = (): void => {
    // Leaving is a stop, with all that a stop does: what it led to is on its way before the song is closed.
    control.leave();
    control.scrubEnd();
    open.stems.giveUp();
    session.leave(performance.now());
    hands.next.close();
    for (const end of ends) end();
    hideProbe();
    clock.close();
    void engine.close();
  };
  return { open, close };
}

const playable = (files: { readonly [name: string]: ShelvedFile }): { [name: string]: WavInfo } =>
  Object.fromEntries(
    Object.entries(files).flatMap(([name, file]) => ('info' in file ? [[name, file.info] as const] : [])),
  );

function sayMissing(files: { readonly [name: string]: ShelvedFile }): void {
  const missing = Object.values(files).flatMap((file) => ('missing' in file ? [file.missing] : []));
  if (missing.length) store.dispatch(troubleStays(`${missing.join(' ')} Its clips are silent; the rest plays.`));
}

function controlOver({ session, telling, next }: Hands, engine: SongEngine): SongControl {
  return new SongControl(session, engine, {
    makeEdit: (edit) => songSync.make(edit),
    step: (which) => step(which, telling),
    workAhead,
    say,
    onSpanChange: (change) => {
      telling.spansChanged(change);
      // Of what was carried on the receipt says where it stands now; of the rest the act says what it did.
      if (change && 'carries' in change) store.dispatch(passRecalled());
    },
    onPlay: () => {
      next.flush();
      store.dispatch(playBegan());
    },
  });
}

/** Takes the last step back or does it again, and says what it was. */
async function step(which: 'undo' | 'redo', telling: PassTelling): Promise<void> {
  const name = await songSync.step(which);
  if (name) telling.did(which === 'undo' ? `Taken back: ${name}.` : `Done again: ${name}.`);
}

/** Others' changes, passes that were cut short, and what became of one's own edits. */
function followServer(id: number, { keeping }: Hands): End {
  const unfollow = onSongChange(
    (change) => void songSync.follow(change),
    () => {
      void songSync.catchUp();
      void looking.look();
    },
  );
  const looking = lookForCutShort(id);
  const unsettle = songSync.onSettled((settled) => {
    keeping.settled(settled);
    const { key, edit, isKept, passNumber } = settled;
    if (edit.kind !== 'pass') return;
    if (passNumber !== null) store.dispatch(passNumbered({ key, number: passNumber }));
    if (!isKept) looking.lookSoon();
  });
  return () => {
    unfollow();
    unsettle();
    looking.end();
  };
}

/** While the song stands, the clock of the output is read now and then: play begins with a line that fits. */
function readClock(session: HandSession, engine: SongEngine): End {
  const reading = setInterval(() => !session.isMoving && engine.tick(performance.now()), CLOCK_EVERY_MS);
  return () => clearInterval(reading);
}

/**
 * Closing the page is a stop. Once it is hidden it has half a second at most, and a busy one needs that: so it is stopped as
 * soon as it may be left.
 */
function leavesWithThePage(control: SongControl): End {
  const { session } = control;
  const leave = (): void => {
    control.finish();
    session.leave(performance.now());
    outbox.keepNow();
  };
  const stay = whenPageMayBeLeft(() => session.stopForGood(performance.now()));
  window.addEventListener('pagehide', leave);
  return () => {
    stay();
    window.removeEventListener('pagehide', leave);
  };
}

/** Whatever a hand does next in the page comes after what is still worked out elsewhere. */
function comesInOrder(control: SongControl): End {
  const finish = (): void => control.finish();
  for (const kind of COMES_DOWN) window.addEventListener(kind, finish, true);
  return () => {
    for (const kind of COMES_DOWN) window.removeEventListener(kind, finish, true);
  };
}
const COMES_DOWN = ['keydown', 'pointerdown'] as const;

/** After a reload the last pass is told of again, while it is the last thing that was done. */
async function recallPass(id: number, session: HandSession, telling: PassTelling): Promise<void> {
  const { undoOf } = store.getState().song.history;
  if (undoOf?.kind !== 'pass' || undoOf.pass === null) return;
  const pass = await fetchPass(id, undoOf.pass).catch(() => null);
  const { view, song } = store.getState();
  if (!pass || song.id !== id || view.pass || session.isMoving) return;
  telling.passMade({ receipt: pass.receipt, lanes: pass.lanes, key: '' }, pass.number);
}
