import { createContext, useContext, useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from 'react';
import { Button, Center, Loader, Stack, Text } from '@mantine/core';
import { Link, useParams } from 'react-router';
import { peaksOf, type PeakPyramid } from '@sure-hand/core/mix';
import type { WavInfo } from '@sure-hand/core/formats';
import { controlsOf, type ControlId, type Edit, type LoggedLane, type Receipt, type Song } from '@sure-hand/core/song';
import type { ShelvedFile } from '@sure-hand/server';
import { MeterHold } from '../engine/meterHold.js';
import { SongEngine } from '../engine/songEngine.js';
import { Comparison } from '../hands/comparison.js';
import { HandSession } from '../hands/handSession.js';
import { SongControl } from '../hands/songControl.js';
import { PassJournalist, findCutShort } from '../song/passJournal.js';
import { leftPending } from '../song/pendingKeeping.js';
import { fetchLastPass, fetchPeaks, songUrl } from '../song/songApi.js';
import { cutShortFound, songClosed, songFailed, troubleCame } from '../song/songSlice.js';
import { showProbe } from './probe.js';
import { songSync, store, useAppSelector } from './store.js';
import { onSongChange } from './telling.js';
import { keptView } from './viewKeeping.js';
import { carriedOn, carryUndone, receiptCame, takenInHand, viewRestored } from './viewSlice.js';

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
  const listeners = new Set<() => void>();
  let version = 0;
  const onChange = (): void => {
    version++;
    for (const listener of listeners) listener();
  };
  const journal = new PassJournalist(id);
  const keepEdits = (edits: readonly Edit[], key: string | null): void => {
    for (const edit of edits) songSync.make(edit, edit.kind === 'pass' && key ? key : undefined);
    if (key === null) return;
    const isPass = edits.some((edit) => edit.kind === 'pass');
    if (isPass) void songSync.flush().then(() => journal.forget(key, true));
    else journal.forget(key, false);
  };
  const listener = {
    onEdits: keepEdits,
    onReceipt: (receipt: Receipt, lanes: readonly LoggedLane[]) => {
      store.dispatch(receiptCame(receipt));
      if (lanes.length) comparison.passMade({ number: null, lanes });
    },
    onHand: () => {
      if (comparison.heard) comparison.asItStands();
    },
    onTrouble: (sentence: string) => store.dispatch(troubleCame(sentence)),
    onChange,
  };
  const session = new HandSession(song, engine, listener, journal);
  engine.onPlanned = () => session.setSong(session.recorder.song);
  engine.onEnded = () => session.ended(performance.now());
  const comparison = new Comparison({
    song: () => session.recorder.song,
    hear: (heard) => session.hear(heard),
    fetchLast: () => fetchLastPass(id).catch(() => null),
  });
  const control = new SongControl(session, engine, {
    makeEdit: (edit) => songSync.make(edit),
    step: (which) => {
      // A carry that is taken back was the last thing done to the last pass's spans.
      const { history, pending } = store.getState().song;
      const isCarry = pending.length ? pending.at(-1)!.edit.kind === 'carry' : history.undo?.startsWith('Carry on');
      if (which === 'undo' && isCarry) store.dispatch(carryUndone());
      return songSync.step(which);
    },
    say: (sentence) => store.dispatch(troubleCame(sentence)),
    onCarry: (carry) => store.dispatch(carriedOn(carry)),
    onPlay: () => store.dispatch(receiptCame(null)),
  });
  showProbe(engine, session);
  const peaks = new Map<string, PeakPyramid>();
  const unsubscribe = store.subscribe(() => {
    const now = store.getState().song;
    if (now.id !== id || !now.song || now.song === session.recorder.song) return;
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
    () => void songSync.catchUp(),
  );
  const stopLooking = lookForCutShort(id);
  const close = (): void => {
    unsubscribe();
    unfollow();
    stopLooking();
    stopPeaks();
    session.stop(performance.now());
    void engine.close();
  };
  return { open, close };
}

/** A browser opens six connections to a server, and the audio needs them: waveforms, which may have to be made first, take two. */
const PEAKS_AT_ONCE = 2;

/** Fetches the waveforms of files, one after the other; gives back what ends it. */
function fetchAllPeaks(
  id: number,
  names: readonly string[],
  take: (name: string, bytes: ArrayBuffer) => void,
): () => void {
  const left = [...names];
  const fetchNext = async (): Promise<void> => {
    for (let name = left.shift(); name !== undefined; name = left.shift())
      try {
        take(name, await fetchPeaks(id, name));
      } catch (error) {
        store.dispatch(troubleCame((error as Error).message));
      }
  };
  for (let k = 0; k < PEAKS_AT_ONCE; k++) void fetchNext();
  return () => void left.splice(0);
}

/** Looks for passes that were cut short, now and once more when a tab just gone can be told from one at work. */
function lookForCutShort(id: number): () => void {
  const look = async (): Promise<void> => {
    const { song, id: open } = store.getState().song;
    if (!song || open !== id) return;
    const found = await findCutShort(song, id);
    if (found.length && store.getState().song.id === id) store.dispatch(cutShortFound(found));
  };
  void look();
  const again = setTimeout(() => void look(), LOOK_AGAIN_MS);
  return () => clearTimeout(again);
}

/** Takes up the view as it was left, with something in hand that the song has. */
function restoreView(id: number, song: Song): void {
  const kept = keptView(id);
  const controls = controlsOf(song);
  const front = Object.fromEntries(Object.entries(kept.front ?? {}).filter(([, control]) => controls.has(control)));
  store.dispatch(viewRestored({ ...kept, front }));
  if (kept.inHand && controls.has(kept.inHand)) return;
  const first = song.channels.find((channel) => channel.mode === 'touch') ?? song.channels[0];
  if (first) store.dispatch(takenInHand(`${first.key}/level`));
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

function Failed({ sentence }: { sentence: string }): ReactNode {
  return (
    <Center h="100vh">
      <Stack align="center" maw={520} ta="center">
        <Text fz="lg">The song could not be opened.</Text>
        <Text c="dimmed">{sentence}</Text>
        <Button component={Link} to="/" variant="default">
          Back to the songs
        </Button>
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
  useEffect(() => {
    let left = false;
    void (async () => {
      await songSync.open(id);
      if (!store.getState().song.song || left) return;
      for (const { edit, key } of await leftPending(id)) songSync.make(edit, key);
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
      store.dispatch(songClosed());
    };
  }, [id]);
  if (status === 'failed') return <Failed sentence={trouble ?? ''} />;
  if (!open) return <Waiting what="Opening the song…" />;
  return <Context value={open}>{children}</Context>;
}
