import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** What the outbox shows: edits that wait, by song, whether the server is away, and what it refused while no view was there to say it. */
export type OutboxState = {
  readonly waiting: { readonly [songId: number]: number };
  readonly isAway: boolean;
  readonly refused: readonly { readonly songId: number; readonly sentence: string }[];
};

const initial: OutboxState = { waiting: {}, isAway: false, refused: [] };

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
    refusalsSeen: (state, { payload }: PayloadAction<number>) => ({
      ...state,
      refused: state.refused.filter(({ songId }) => songId !== payload),
    }),
  },
});

export const { waitingCounted, awaySaid, refusalCame, refusalsSeen } = slice.actions;
export const outboxReducer = slice.reducer;
