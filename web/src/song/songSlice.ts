import { createAction, type UnknownAction } from '@reduxjs/toolkit';
import type { Recovered } from '@sure-hand/core/pass';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';
import type { History, ShelvedFile, Stale, WholeSong } from '@sure-hand/server';

/** An edit on its way to the server, under a key of its own: one that arrives twice is kept once. */
export type PendingEdit = { readonly key: string; readonly edit: Edit };
/** A pass that was cut short and can be kept after all; `after`: what falls back from write with it. */
export type CutShort = Recovered & { readonly key: string };

/** The open song: what the server has confirmed, the edits on their way to it, and the song with them applied. */
export type SongState = {
  readonly status: 'none' | 'loading' | 'open' | 'failed';
  readonly id: number | null;
  readonly revision: number;
  readonly confirmed: Song | null;
  readonly pending: readonly PendingEdit[];
  readonly song: Song | null;
  readonly history: History;
  readonly lastPass: number;
  readonly files: { readonly [name: string]: ShelvedFile };
  /** The sentence of what went wrong; null while nothing has. */
  readonly trouble: string | null;
  /** It stays until it was seen; any other goes with what is done next. */
  readonly troubleStays: boolean;
  /** The server can't be reached; edits wait. */
  readonly isAway: boolean;
  /** The server is there, and could not keep what was sent: its sentence, such as that its disk is full; null else. */
  readonly notKept: string | null;
  /** Passes of tabs that went away, to be kept or dropped. */
  readonly cutShort: readonly CutShort[];
  /** The keys of those that were kept or dropped here, in that order. */
  readonly settledCutShort: readonly string[];
};

const NONE: SongState = {
  status: 'none',
  id: null,
  revision: 0,
  confirmed: null,
  pending: [],
  song: null,
  history: { undo: null, redo: null, undoOf: null, redoOf: null },
  lastPass: 0,
  files: {},
  trouble: null,
  troubleStays: false,
  isAway: false,
  notKept: null,
  cutShort: [],
  settledCutShort: [],
};

export const songOpening = createAction<number>('song/opening');
export const songOpened = createAction<WholeSong>('song/opened');
export const songClosed = createAction('song/closed');
export const songFailed = createAction<string>('song/failed');
/**
 * Edits made here: they are applied at once, together, and sent after. `known`: the song that they make of another one,
 * where that was worked out already.
 */
export const editsMade = createAction<{
  edits: readonly PendingEdit[];
  known?: { readonly before: Song; readonly after: Song } | undefined;
}>('song/editsMade');
/** The server has kept the edit with a key, or an undo or redo (`isStep`). */
export const editKept = createAction<{
  key: string | null;
  edit: Edit;
  revision: number;
  history: History;
  passNumber: number | null;
  isStep: boolean;
}>('song/editKept');
/** The edit with a key was kept before, and the song came with it: it is not on its way any more. */
export const editKnown = createAction<{ key: string; passNumber: number | null; history: History }>('song/editKnown');
/** Edits from elsewhere came first; those pending go on top of them. */
export const editsCameFirst = createAction<Omit<Stale, 'stale'>>('song/editsCameFirst');
/** So much came first that the song was asked for whole; of those pending, the ones with these keys are in it. */
export const songCaughtUp = createAction<{
  readonly whole: Omit<WholeSong, 'id'>;
  readonly keys: readonly string[];
  /** The server’s song is older than what it had told: the words about it. */
  readonly isOlder?: string;
}>('song/songCaughtUp');
/** The server refused the edit with a key: it is taken back here, with the server's sentence. */
export const editRefused = createAction<{ key: string; sentence: string }>('song/editRefused');
/** Passes were found that were cut short, looked for since so many had been settled; one of them was kept or dropped. */
export const cutShortFound = createAction<{ readonly found: readonly CutShort[]; readonly since: number }>(
  'song/cutShortFound',
);
export const cutShortSettled = createAction<string>('song/cutShortSettled');
export const serverAway = createAction<boolean>('song/serverAway');
/** The server could not keep an edit, though nothing is wrong with that: its sentence. It is sent again. */
export const editNotKept = createAction<string>('song/editNotKept');
export const troubleSeen = createAction('song/troubleSeen');
export const troubleCame = createAction<string>('song/troubleCame');
/** Something that is wrong and goes on being so. */
export const troubleStays = createAction<string>('song/troubleStays');

const applyAll = (song: Song, edits: readonly { readonly edit: Edit }[]): Song =>
  edits.reduce((s, { edit }) => applyEdit(s, edit).song, song);

/**
 * Written by hand rather than with drafts: the song is large plain data that only core edits change, and its parts keep
 * their identity, which the engine and the drawing rely on.
 */
export function songReducer(state: SongState = NONE, action: UnknownAction): SongState {
  if (songOpening.match(action)) return { ...NONE, status: 'loading', id: action.payload };
  if (songClosed.match(action)) return NONE;
  if (songFailed.match(action)) return { ...state, status: 'failed', trouble: action.payload };
  if (songOpened.match(action)) {
    const { song, ...rest } = action.payload;
    return { ...NONE, ...rest, status: 'open', confirmed: song, song };
  }
  if (serverAway.match(action)) {
    if (state.isAway === action.payload && state.notKept === null) return state;
    // What could not be kept can be now, or nobody knows any more whether it could.
    const isOver = state.notKept !== null && state.trouble === state.notKept;
    const trouble = isOver ? { trouble: null, troubleStays: false } : {};
    return { ...state, isAway: action.payload, notKept: null, ...trouble };
  }
  if (editNotKept.match(action)) {
    if (state.notKept === action.payload) return state;
    return { ...state, isAway: true, notKept: action.payload, trouble: action.payload, troubleStays: true };
  }
  if (cutShortFound.match(action)) {
    const { found, since } = action.payload;
    // What was settled while it was looked for is not there any more.
    const known = new Set([...state.cutShort.map((one) => one.key), ...state.settledCutShort.slice(since)]);
    return { ...state, cutShort: [...state.cutShort, ...found.filter((one) => !known.has(one.key))] };
  }
  if (cutShortSettled.match(action)) {
    const settledCutShort = [...state.settledCutShort, action.payload];
    return { ...state, settledCutShort, cutShort: state.cutShort.filter((one) => one.key !== action.payload) };
  }
  if (troubleSeen.match(action)) return { ...state, trouble: null };
  if (troubleCame.match(action)) return { ...state, trouble: action.payload, troubleStays: false };
  if (troubleStays.match(action)) return { ...state, trouble: action.payload, troubleStays: true };
  return state.song && state.confirmed
    ? changeOpen(state, { song: state.song, confirmed: state.confirmed }, action)
    : state;
}

function changeOpen(
  state: SongState,
  { song, confirmed }: { song: Song; confirmed: Song },
  action: UnknownAction,
): SongState {
  if (editsMade.match(action)) {
    const { edits, known } = action.payload;
    const pending = [...state.pending, ...edits];
    return { ...state, pending, song: known?.before === song ? known.after : applyAll(song, edits) };
  }
  if (editKept.match(action)) {
    const { key, edit, revision, history, passNumber, isStep } = action.payload;
    const pending = state.pending.filter((one) => one.key !== key);
    // What came from elsewhere may have brought this one along already: each is applied once.
    if (revision <= state.revision)
      return { ...state, pending, history, lastPass: passNumber ?? state.lastPass, song: applyAll(confirmed, pending) };
    const lastPass = passNumber ?? state.lastPass;
    const kept = { ...state, revision, history, pending, lastPass };
    // With nothing else on its way, what is shown and what is kept are one and the same.
    if (!isStep && pending.length === 0 && state.pending.length === 1) return { ...kept, confirmed: song };
    const now = applyEdit(confirmed, edit).song;
    const shown = applyAll(now, pending);
    return { ...kept, confirmed: pending.length ? now : shown, song: shown };
  }
  if (editKnown.match(action)) {
    const { key, passNumber, history } = action.payload;
    const pending = state.pending.filter((one) => one.key !== key);
    const lastPass = Math.max(state.lastPass, passNumber ?? 0);
    return { ...state, pending, history, lastPass, song: applyAll(confirmed, pending) };
  }
  if (editsCameFirst.match(action)) {
    const { changes, revision, history, lastPass } = action.payload;
    if (revision < state.revision) return state;
    // Nothing came, but of what could be undone some may have gone with old versions.
    if (revision === state.revision) return { ...state, history };
    // Asked for twice at one time, the later answer begins before what the earlier one has brought: each is applied once.
    const now = applyAll(confirmed, changes.slice(state.revision - revision));
    // One of ours may be among them: it was kept, and only its answer was lost.
    const kept = new Set(changes.map((change) => change.key));
    const pending = state.pending.filter(({ key }) => !kept.has(key));
    return { ...state, revision, history, lastPass, pending, confirmed: now, song: applyAll(now, pending) };
  }
  if (songCaughtUp.match(action)) {
    const { whole, keys, isOlder } = action.payload;
    if (whole.revision === state.revision && !isOlder) return { ...state, history: whole.history };
    if (whole.revision < state.revision && !isOlder) return state;
    const { song: now, revision, history, lastPass, files } = whole;
    const pending = state.pending.filter(({ key }) => !keys.includes(key));
    const shown = { confirmed: now, song: applyAll(now, pending) };
    const trouble = isOlder ? { trouble: isOlder, troubleStays: false } : {};
    return { ...state, revision, history, lastPass, files, pending, ...shown, ...trouble };
  }
  if (editRefused.match(action)) {
    const { key, sentence } = action.payload;
    const pending = state.pending.filter((one) => one.key !== key);
    return { ...state, pending, song: applyAll(confirmed, pending), trouble: sentence, troubleStays: false };
  }
  return state;
}
