import { createAction, type UnknownAction } from '@reduxjs/toolkit';
import { applyEdit, type Edit, type Song } from '@sure-hand/core/song';
import type { History, ShelvedFile, WholeSong } from '@sure-hand/server';

/** The open song: what the server has confirmed, the edits on their way to it, and the song with them applied. */
export type SongState = {
  readonly status: 'none' | 'loading' | 'open' | 'failed';
  readonly id: number | null;
  readonly revision: number;
  readonly confirmed: Song | null;
  readonly pending: readonly Edit[];
  readonly song: Song | null;
  readonly history: History;
  readonly lastPass: number;
  readonly files: { readonly [name: string]: ShelvedFile };
  /** The sentence of what went wrong; null while nothing has. */
  readonly trouble: string | null;
  /** The server can't be reached; edits wait. */
  readonly isAway: boolean;
};

const NONE: SongState = {
  status: 'none',
  id: null,
  revision: 0,
  confirmed: null,
  pending: [],
  song: null,
  history: { undo: null, redo: null },
  lastPass: 0,
  files: {},
  trouble: null,
  isAway: false,
};

export const songOpening = createAction<number>('song/opening');
export const songOpened = createAction<WholeSong>('song/opened');
export const songClosed = createAction('song/closed');
export const songFailed = createAction<string>('song/failed');
/** An edit made here; it is applied at once and sent after. */
export const editMade = createAction<Edit>('song/editMade');
/** The server has kept the first pending edit, or an undo or redo (`isStep`). */
export const editKept = createAction<{
  edit: Edit;
  revision: number;
  history: History;
  passNumber: number | null;
  isStep: boolean;
}>('song/editKept');
/** Edits from elsewhere came first; those pending go on top of them. */
export const editsCameFirst = createAction<{ changes: readonly Edit[]; revision: number }>('song/editsCameFirst');
/** The server refused the first pending edit: it is taken back here, with the server's sentence. */
export const editRefused = createAction<string>('song/editRefused');
export const serverAway = createAction<boolean>('song/serverAway');
export const troubleSeen = createAction('song/troubleSeen');
export const troubleCame = createAction<string>('song/troubleCame');

const applyAll = (song: Song, edits: readonly Edit[]): Song => edits.reduce((s, edit) => applyEdit(s, edit).song, song);

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
  if (serverAway.match(action)) return state.isAway === action.payload ? state : { ...state, isAway: action.payload };
  if (troubleSeen.match(action)) return { ...state, trouble: null };
  if (troubleCame.match(action)) return { ...state, trouble: action.payload };
  return state.song && state.confirmed
    ? changeOpen(state, { song: state.song, confirmed: state.confirmed }, action)
    : state;
}

function changeOpen(
  state: SongState,
  { song, confirmed }: { song: Song; confirmed: Song },
  action: UnknownAction,
): SongState {
  if (editMade.match(action)) {
    const pending = [...state.pending, action.payload];
    return { ...state, pending, song: applyEdit(song, action.payload).song };
  }
  if (editKept.match(action)) {
    const { edit, revision, history, passNumber, isStep } = action.payload;
    const pending = isStep ? state.pending : state.pending.slice(1);
    const now = applyEdit(confirmed, edit).song;
    // With nothing else on its way, what is shown and what is kept are one and the same.
    const shown = pending.length === 0 && !isStep ? song : applyAll(now, pending);
    const lastPass = passNumber ?? state.lastPass;
    return { ...state, revision, history, pending, lastPass, confirmed: pending.length ? now : shown, song: shown };
  }
  if (editsCameFirst.match(action)) {
    const now = applyAll(confirmed, action.payload.changes);
    const { revision } = action.payload;
    return { ...state, revision, confirmed: now, song: applyAll(now, state.pending) };
  }
  if (editRefused.match(action)) {
    const pending = state.pending.slice(1);
    return { ...state, pending, song: applyAll(confirmed, pending), trouble: action.payload };
  }
  return state;
}
