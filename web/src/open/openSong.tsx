import { createContext, useContext, useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from 'react';
import { Button, Center, Group, Loader, Stack, Text } from '@mantine/core';
import { Link, useParams } from 'react-router';
import { peaksOf, type PeakPyramid } from '@sure-hand/core/mix';
import type { WavInfo } from '@sure-hand/core/formats';
import { controlOf, controlsOf, fullName, laneOf, type ControlId, type Song, controlId } from '@sure-hand/core/song';
import type { ShelvedFile } from '@sure-hand/server';
import { MeterHold } from '../engine/meterHold.js';
import { PageClock } from '../engine/pageClock.js';
import { SongEngine } from '../engine/songEngine.js';
import { Comparison } from '../hands/comparison.js';
import { HandKeeping } from './handKeeping.js';
import { HandSession, type EditsMade, type PassMade } from '../hands/handSession.js';
import { SongControl } from '../hands/songControl.js';
import { PassJournalist, findCutShort } from '../song/passJournal.js';
import { ServerAway, fetchLastPass, fetchPass, fetchPeaks, songUrl } from '../song/songApi.js';
import { songLeft } from '../song/outboxSlice.js';
import { cutShortFound, songClosed, songFailed, troubleCame } from '../song/songSlice.js';
import { PassTelling } from './passTelling.js';
import { showProbe } from './probe.js';
import { outbox, songSync, store, useAppSelector } from '../store/store.js';
import { onSongChange } from '../store/telling.js';
import { keptView } from '../store/viewKeeping.js';
import {
  carriedOn,
  carryUndone,
  passNumbered,
  passRecalled,
  playBegan,
  takenInHand,
  viewRestored,
} from '../store/viewSlice.js';

/** The open song as the views work with it: engine, hands, waveforms, and word of every change of the hands. */
export type OpenSong = {
  readonly id: number;
  readonly engine: SongEngine;
  readonly session: HandSession;
  readonly control: SongControl;
  readonly comparison: Comparison;
  readonly peaks: ReadonlyMap<string, PeakPyramid>;
  /** Highest peaks and what went over, for all meters there are. */
  readonly meters: MeterHold;
  /** Controls in the order Tab goes through them, as the view that is open has them. */
  readonly onView: { current: readonly ControlId[] };
  /** Calls back whenever a hand, a span or the transport has changed; gives back what ends it. */
  readonly subscribe: (listener: () => void) => () => void;
  readonly version: () => number;
};

/** A journal is known to be left when nobody has written to it for a while; one of a tab just gone is found then. */
const LOOK_AGAIN_MS = 4000;
/** How often the output's clock is read while the song stands. */
const CLOCK_EVERY_MS = 120;

const Context = createContext<OpenSong | null>(null);

/** The open song; only inside {@link OpenSongProvider}. */
export function useOpenSong(): OpenSong {
  const open = useContext(Context);
  if (!open) throw new Error('no song is open here');
  return open;
}

/** Draws again whenever a hand, a span or the transport has changed. */
export function useHands(): OpenSong {
  const open = useOpenSong();
  useSyncExternalStore(open.subscribe, open.version);
  return open;
}

function playable(files: { readonly [name: string]: ShelvedFile }): { [name: string]: WavInfo } {
  return Object.fromEntries(
    Object.entries(files).flatMap(([name, file]) => ('info' in file ? [[name, file.info] as const] : [])),
  );
}

/** Sets up everything a song needs once its document is there. */
async function openSong(id: number, song: Song): Promise<{ open: OpenSong; close: () => void }> {
  const { files } = store.getState().song;
  const engine = await SongEngine.open({ url: songUrl(id), song, files: playable(files) });
  const clock = new PageClock();
  const listeners = new Set<() => void>();
  let version = 0;
  const onChange = (): void => {
    version++;
    telling.changed();
    for (const listener of listeners) listener();
  };
  const journal = new PassJournalist(id);
  const keeping = new HandKeeping(songSync, journal);
  const listener = {
    onEdits: (made: EditsMade) => {
      const { edits, rolled, after } = made;
      keeping.made(made);
      const rest = edits.find((edit) => edit.kind === 'rest');
      if (rest && !rolled) telling.did(restedWords(after, Object.keys(rest.values)));
    },
    onPass: (made: PassMade) => {
      telling.passMade(made);
      if (made.lanes.length) comparison.passMade({ number: null, lanes: made.lanes });
    },
    onHand: () => {
      if (comparison.heard) comparison.asItStands();
    },
    onTrouble: (sentence: string) => store.dispatch(troubleCame(sentence)),
    onChange,
  };
  const session: HandSession = new HandSession(song, engine, listener, journal, clock);
  const telling = new PassTelling(session);
  engine.onPlanned = () => session.planned();
  engine.onEnded = () => session.ended(performance.now());
  engine.onLost = () => {
    session.stop(performance.now());
    store.dispatch(
      troubleCame('The audio output went away, and the song was stopped; what was ridden up to there is kept.'),
    );
  };
  const comparison = new Comparison({
    song: () => session.recorder.song,
    hear: (heard) => session.hear(heard),
    fetchLast: () => fetchLastPass(id).catch(() => null),
  });
  const control = new SongControl(session, engine, {
    makeEdit: (edit) => songSync.make(edit),
    step: async (which) => {
      const { undo, undoOf, redo } = store.getState().song.history;
      // A carry that is taken back was the last thing done to the last pass's spans.
      const isCarry = which === 'undo' && undoOf?.kind === 'carry' && store.getState().view.carries.length > 0;
      const name = which === 'undo' ? undo : redo;
      if (!(await songSync.step(which))) return;
      if (isCarry) {
        store.dispatch(carryUndone());
        telling.carried();
      }
      if (name) telling.did(which === 'undo' ? `Taken back: ${name}.` : `Done again: ${name}.`);
    },
    say: (sentence) => store.dispatch(troubleCame(sentence)),
    onCarry: (carry) => {
      store.dispatch(carriedOn(carry));
      telling.carried();
      store.dispatch(passRecalled());
    },
    onPlay: () => store.dispatch(playBegan()),
  });
  showProbe(engine, session, () => store.getState().song.pending.length);
  const peaks = new Map<string, PeakPyramid>();
  let seen = song;
  const unsubscribe = store.subscribe(() => {
    const now = store.getState().song;
    if (now.id !== id || !now.song || now.song === seen) return;
    seen = now.song;
    session.setSong(now.song);
    comparison.songChanged();
    onChange();
  });
  const missing = Object.values(files).flatMap((file) => ('missing' in file ? [file.missing] : []));
  if (missing.length) store.dispatch(troubleCame(`${missing.join(' ')} Its clips are silent; the rest plays.`));
  const stopPeaks = fetchAllPeaks(id, Object.keys(playable(files)), (name, bytes) => {
    peaks.set(name, peaksOf(bytes));
    onChange();
  });
  const open: OpenSong = {
    id,
    engine,
    session,
    control,
    comparison,
    peaks,
    meters: new MeterHold(),
    onView: { current: [] },
    version: () => version,
    subscribe: (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
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
  // While it stands, the clock of the output is read now and then: play begins with a line that fits.
  const reading = setInterval(() => !session.isMoving && engine.tick(performance.now()), CLOCK_EVERY_MS);
  const leave = (): void => session.leave(performance.now());
  const leavePage = (): void => {
    leave();
    outbox.keepNow();
  };
  // A page that is hidden has half a second at most, and a busy one needs it: as soon as it may be left, it is stopped.
  const mayLeave = (): void => {
    session.stopForGood(performance.now());
    outbox.keepNow();
  };
  window.addEventListener('beforeunload', mayLeave);
  window.addEventListener('pagehide', leavePage);
  void recallPass(id, session, telling);
  const close = (): void => {
    window.removeEventListener('beforeunload', mayLeave);
    window.removeEventListener('pagehide', leavePage);
    // Leaving is a stop, with all that a stop does: what it led to is on its way before the song is closed.
    leave();
    unsubscribe();
    unfollow();
    unsettle();
    looking.end();
    stopPeaks();
    clearInterval(reading);
    clock.close();
    void engine.close();
  };
  return { open, close };
}

/** What a stopped hand has just set for good. */
const restedWords = (song: Song, ids: readonly ControlId[]): string =>
  `${ids.map((one) => `${fullName(song, one)} rests at ${controlOf(song, one).scale.print(laneOf(song, one).rest)}`).join(', ')}, for the whole song.`;

/** After a reload the last pass is told of again, while it is the last thing that was done. */
async function recallPass(id: number, session: HandSession, telling: PassTelling): Promise<void> {
  const { undoOf } = store.getState().song.history;
  if (undoOf?.kind !== 'pass' || undoOf.pass === null) return;
  const pass = await fetchPass(id, undoOf.pass).catch(() => null);
  const { view, song } = store.getState();
  if (!pass || song.id !== id || view.pass || session.isMoving) return;
  telling.passMade({ receipt: pass.receipt, lanes: pass.lanes, key: '' }, pass.number);
}

/** A browser opens six connections to a server, and the audio needs them: waveforms, which may have to be made first, take two. */
const PEAKS_AT_ONCE = 2;
/** With the server away they are asked for again so often. */
const PEAKS_AGAIN_MS = 3000;

/** Fetches the waveforms of files, one after the other; gives back what ends it. */
function fetchAllPeaks(
  id: number,
  names: readonly string[],
  take: (name: string, bytes: ArrayBuffer) => void,
): () => void {
  const left = [...names];
  let isEnded = false;
  const fetchNext = async (): Promise<void> => {
    for (let name = left.shift(); name !== undefined; name = left.shift())
      try {
        take(name, await fetchPeaks(id, name));
      } catch (error) {
        if (error instanceof ServerAway) {
          // It comes once the server is back.
          if (isEnded) return;
          left.push(name);
          await new Promise((again) => setTimeout(again, PEAKS_AGAIN_MS));
        } else store.dispatch(troubleCame((error as Error).message));
      }
  };
  for (let k = 0; k < PEAKS_AT_ONCE; k++) void fetchNext();
  return () => {
    isEnded = true;
    left.splice(0);
  };
}

/** Looks for passes that were cut short, now and once more when a tab just gone can be told from one at work. */
function lookForCutShort(id: number): { look: () => Promise<void>; lookSoon: () => void; end: () => void } {
  let isEnded = false;
  const look = async (): Promise<void> => {
    const { song, id: open } = store.getState().song;
    if (!song || open !== id || isEnded) return;
    try {
      const found = await findCutShort(song, id, await outbox.keysOf(id));
      if (found.length && store.getState().song.id === id) store.dispatch(cutShortFound(found));
    } catch {
      // The server is away: it is looked again once it is back.
    }
  };
  const timers: ReturnType<typeof setTimeout>[] = [];
  const lookSoon = (): void => void timers.push(setTimeout(() => void look(), LOOK_AGAIN_MS));
  void look();
  lookSoon();
  const end = (): void => {
    isEnded = true;
    for (const timer of timers) clearTimeout(timer);
  };
  return { look, lookSoon, end };
}

/** Takes up the view as it was left, with something in hand that the song has. */
function restoreView(id: number, song: Song): void {
  const kept = keptView(id);
  const controls = controlsOf(song);
  const front = Object.fromEntries(Object.entries(kept.front ?? {}).filter(([, control]) => controls.has(control)));
  store.dispatch(viewRestored({ ...kept, front }));
  if (kept.inHand && controls.has(kept.inHand)) return;
  const first = song.channels.find((channel) => channel.mode === 'touch') ?? song.channels[0];
  if (first) store.dispatch(takenInHand(controlId(first.key, 'level')));
}

function Waiting({ what }: { what: string }): ReactNode {
  return (
    <Center h="100vh">
      <Stack align="center">
        <Loader />
        <Text c="dimmed">{what}</Text>
      </Stack>
    </Center>
  );
}

function Failed({ sentence, again }: { sentence: string; again: () => void }): ReactNode {
  return (
    <Center h="100vh">
      <Stack align="center" maw={520} ta="center">
        <Text fz="lg">The song could not be opened.</Text>
        <Text c="dimmed">{sentence}</Text>
        <Group>
          <Button variant="default" onClick={again}>
            Try again
          </Button>
          <Button component={Link} to="/" variant="default">
            Back to the songs
          </Button>
        </Group>
      </Stack>
    </Center>
  );
}

/** Opens the song that the address names, for all its views. */
export function OpenSongProvider({ children }: { children: ReactNode }): ReactNode {
  const id = Number(useParams().id);
  const [open, setOpen] = useState<OpenSong | null>(null);
  const { status, trouble } = useAppSelector((state) => state.song);
  const closing = useRef<() => void>(() => undefined);
  const [tries, setTries] = useState(0);
  useEffect(() => {
    let left = false;
    void (async () => {
      await songSync.open(id);
      const { song } = store.getState().song;
      if (!song || left) return;
      restoreView(id, song);
      try {
        const opened = await openSong(id, song);
        if (left) return opened.close();
        closing.current = opened.close;
        setOpen(opened.open);
      } catch (error) {
        store.dispatch(songFailed((error as Error).message));
      }
    })();
    return () => {
      left = true;
      closing.current();
      closing.current = () => undefined;
      setOpen(null);
      const { song } = store.getState().song;
      if (song) store.dispatch(songLeft({ id, name: song.name }));
      store.dispatch(songClosed());
      songSync.close(id);
    };
  }, [id, tries]);
  if (status === 'failed') return <Failed sentence={trouble ?? ''} again={() => setTries(tries + 1)} />;
  if (!open) return <Waiting what="Opening the song…" />;
  return <Context value={open}>{children}</Context>;
}
