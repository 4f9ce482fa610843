import { combineReducers, configureStore, isAnyOf, type UnknownAction } from '@reduxjs/toolkit';
import { shallowEqual, useDispatch, useSelector } from 'react-redux';
import { controlsOf, type Song } from '@sure-hand/core/song';
import { Outbox } from '../song/outbox.js';
import { awaySaid, outboxReducer, refusalCame, waitingCounted } from '../song/outboxSlice.js';
import { editsMade, songReducer } from '../song/songSlice.js';
import { SongSync, leftAloneWords } from '../song/songSync.js';
import { viewKeeping } from './viewKeeping.js';
import { didSomething, placingMade, playBegan, viewReducer, viewRestored } from './viewSlice.js';
import { viewWithin } from './viewWithin.js';

const parts = combineReducers({ song: songReducer, view: viewReducer, outbox: outboxReducer });
export type AppState = ReturnType<typeof parts>;

/** What is done next takes away the sentence of what went wrong before: it was seen, or it is old. */
const goesOn = isAnyOf(editsMade, playBegan, didSomething, placingMade);

/** Channels that go take what the view has of them along in the same moment: no view is drawn of what is not there. */
function reducer(state: AppState | undefined, action: UnknownAction): AppState {
  const after = parts(state, action);
  const isOld = after.song.trouble !== null && !after.song.troubleStays && goesOn(action);
  const now = isOld ? { ...after, song: { ...after.song, trouble: null } } : after;
  const { song } = now.song;
  const before = state?.song.song;
  if (!song) return now;
  // A view that is taken up again is of the song as it was left.
  const isOfIt = before && controlsOf(song) === controlsOf(before) && !viewRestored.match(action);
  return isOfIt ? now : { ...now, view: viewWithin(now.view, song) };
}

/** The store: the document, the selection and the view. What changes with every picture never goes through it. */
export const store = configureStore({
  reducer,
  // The checks walk the whole song at every action; the song is plain data by construction.
  middleware: (defaults) =>
    defaults({ immutableCheck: false, serializableCheck: false }).concat(viewKeeping.middleware),
});

/** Everything that this browser has made and the server has not got, of whatever song. */
export const outbox = new Outbox(
  {
    onWaiting: (counts) => void store.dispatch(waitingCounted(counts)),
    onAway: (isAway) => void store.dispatch(awaySaid(isAway)),
    onRefused: (songId, sentence) => void store.dispatch(refusalCame({ songId, sentence })),
  },
  leftAloneWords(() => null),
);
export const songSync = new SongSync(store, outbox);

const endings = new Set<() => void>();

/** Has an act done when the page may be left, before it is asked whether anything waits. Gives back what ends that. */
export function whenPageMayBeLeft(act: () => void): () => void {
  endings.add(act);
  return () => void endings.delete(act);
}

/** Sends what waits from any view, and warns where a page is closed with something still waiting. */
export function keepOutboxGoing(): void {
  outbox.watch();
  window.addEventListener('pagehide', () => outbox.keepNow());
  window.addEventListener('beforeunload', (event) => {
    for (const act of endings) act();
    if (outbox.isEmpty) return;
    outbox.keepNow();
    event.preventDefault();
  });
}

export type AppDispatch = typeof store.dispatch;
export const useAppDispatch = useDispatch.withTypes<AppDispatch>();
export const useAppSelector = useSelector.withTypes<AppState>();

const picked = <T, K extends keyof T>(all: T, keys: readonly K[]): Pick<T, K> =>
  Object.fromEntries(keys.map((key) => [key, all[key]])) as Pick<T, K>;

/** Some of what the view has: draws again only where one of these has changed. */
export const useViewParts = <K extends keyof AppState['view']>(...keys: readonly K[]): Pick<AppState['view'], K> =>
  useAppSelector(({ view }) => picked(view, keys), shallowEqual);

/** Some of what is known of the open song, the same way. */
export const useSongParts = <K extends keyof AppState['song']>(...keys: readonly K[]): Pick<AppState['song'], K> =>
  useAppSelector(({ song }) => picked(song, keys), shallowEqual);

/** Some of the open song: draws again only where one of these has changed, not with every curve. Only while a song is open. */
export const useOfSong = <K extends keyof Song>(...keys: readonly K[]): Pick<Song, K> =>
  useAppSelector(({ song }) => song.song && picked(song.song, keys), shallowEqual)!;
