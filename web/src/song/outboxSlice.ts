import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** What the outbox shows: edits that wait, by song, whether the server is away, and what it refused while no view was there to say it. */
export type OutboxState = {
  readonly waiting: { readonly [songId: number]: number };
  readonly isAway: boolean;
  readonly refused: readonly { readonly songId: number; readonly sentence: string }[];
  /** What songs were called as they were last left: with the server away nothing else names them. */
  readonly names: { readonly [songId: number]: string };
};

const initial: OutboxState = { waiting: {}, isAway: false, refused: [], names: {} };

const slice = createSlice({
  name: 'outbox',
  initialState: initial,
  reducers: {
    waitingCounted: (state, { payload }: PayloadAction<OutboxState['waiting']>) => ({ ...state, waiting: payload }),
    awaySaid: (state, { payload }: PayloadAction<boolean>) => ({ ...state, isAway: payload }),
    refusalCame: (state, { payload }: PayloadAction<OutboxState['refused'][number]>) => ({
      ...state,
      refused: [...state.refused, payload],
    }),
    songLeft: (state, { payload: { id, name } }: PayloadAction<{ readonly id: number; readonly name: string }>) => ({
      ...state,
      names: { ...state.names, [id]: name },
    }),
    refusalsSeen: (state, { payload }: PayloadAction<number>) => ({
      ...state,
      refused: state.refused.filter(({ songId }) => songId !== payload),
    }),
  },
});

export const { waitingCounted, awaySaid, refusalCame, refusalsSeen, songLeft } = slice.actions;
export const outboxReducer = slice.reducer;
