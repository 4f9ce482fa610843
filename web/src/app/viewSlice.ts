import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { ChannelKey, Clip, ControlId, Note, Receipt, Section } from '@sure-hand/core/song';
import type { Carry } from '../hands/carrying.js';
import type { TimeFormat } from '@sure-hand/core/time';

/** What is open to be typed into, above the hand bar or beside the lanes; `null` marks are new ones, to be put at `t`. */
export type Asked =
  | { readonly what: 'section'; readonly mark: Section | null; readonly t: number }
  | { readonly what: 'note'; readonly mark: Note | null; readonly t: number; readonly channel: ChannelKey | null }
  /** A clip of a channel, by where it begins. */
  | { readonly what: 'clip'; readonly channel: ChannelKey; readonly at: Clip['t'] }
  | { readonly what: 'song' }
  /** How passes write: desk mode, write scope, return time and the like. */
  | { readonly what: 'writing' }
  /** Every control with what a pass does, would do or did to it. */
  | { readonly what: 'list' };

/** What is looked at and how: kept in the browser for each song, never an undo step. */
export type ViewState = {
  /** The control that keys and the hand bar act on. */
  readonly inHand: ControlId | null;
  /** The lane drawn in front, by channel; its level where nothing is said. */
  readonly front: { readonly [channel: string]: ControlId };
  readonly pinned: readonly string[];
  readonly folded: readonly string[];
  readonly secPerScreen: number;
  readonly tallPx: number;
  readonly slimPx: number;
  readonly format: TimeFormat;
  /** The range set with I and O, or dragged; loop and, later, the punch range are switched on over it. */
  readonly range: readonly [number, number] | null;
  readonly scheme: 'lamp' | 'paper';
  readonly keysShown: boolean;
  readonly typing: boolean;
  readonly finding: boolean;
  readonly asked: Asked | null;
  /** The last pass's receipt, until the next play; and where its edit stands in the log once it is kept. */
  readonly receipt: Receipt | null;
  /** Ends and beginnings of its spans that were carried on since, the last one last. */
  readonly carries: readonly Carry[];
};

export const SLIM_PX = 28;
export const TALL_PX = 200;
const initial: ViewState = {
  inHand: null,
  front: {},
  pinned: [],
  folded: [],
  secPerScreen: 30,
  tallPx: TALL_PX,
  slimPx: SLIM_PX,
  format: 'bars',
  range: null,
  scheme: 'lamp',
  keysShown: false,
  typing: false,
  finding: false,
  asked: null,
  receipt: null,
  carries: [],
};

const channelOf = (id: ControlId): string => id.slice(0, id.indexOf('/'));
const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x));
const toggled = (list: readonly string[], item: string): string[] =>
  list.includes(item) ? list.filter((one) => one !== item) : [...list, item];

const slice = createSlice({
  name: 'view',
  initialState: initial,
  reducers: {
    viewRestored: (_state, { payload }: PayloadAction<Partial<ViewState>>) => ({ ...initial, ...payload }),
    takenInHand: (state, { payload }: PayloadAction<ControlId>) => {
      state.inHand = payload;
      state.front[channelOf(payload)] = payload;
    },
    pinToggled: (state, { payload }: PayloadAction<string>) => {
      state.pinned = toggled(state.pinned, payload);
    },
    foldToggled: (state, { payload }: PayloadAction<string>) => {
      state.folded = toggled(state.folded, payload);
    },
    zoomed: (state, { payload }: PayloadAction<number>) => {
      state.secPerScreen = clamp(payload, 0.5, 3600);
    },
    heightsScaled: (state, { payload }: PayloadAction<number>) => {
      state.slimPx = clamp(Math.round(state.slimPx * payload), 20, 120);
      state.tallPx = clamp(Math.round(state.tallPx * payload), 120, 480);
    },
    formatChosen: (state, { payload }: PayloadAction<TimeFormat>) => {
      state.format = payload;
    },
    rangeSet: (state, { payload }: PayloadAction<readonly [number, number] | null>) => {
      state.range = payload as [number, number] | null;
    },
    schemeToggled: (state) => {
      state.scheme = state.scheme === 'lamp' ? 'paper' : 'lamp';
    },
    keysShownSet: (state, { payload }: PayloadAction<boolean>) => {
      state.keysShown = payload;
    },
    typingSet: (state, { payload }: PayloadAction<boolean>) => {
      state.typing = payload;
    },
    findingSet: (state, { payload }: PayloadAction<boolean>) => {
      state.finding = payload;
    },
    askedFor: (state, { payload }: PayloadAction<Asked | null>) => {
      // What stands there to be looked at goes away with the same key.
      const isSame = payload?.what === state.asked?.what && (payload?.what === 'writing' || payload?.what === 'list');
      state.asked = isSame ? null : payload;
    },
    receiptCame: (state, { payload }: PayloadAction<Receipt | null>) => {
      state.receipt = payload as ViewState['receipt'] as never;
      state.carries = [];
    },
    carriedOn: (state, { payload }: PayloadAction<Carry>) => {
      state.carries.push(payload);
    },
    carryUndone: (state) => {
      state.carries.pop();
    },
  },
});

export const {
  viewRestored,
  takenInHand,
  pinToggled,
  foldToggled,
  zoomed,
  heightsScaled,
  formatChosen,
  rangeSet,
  schemeToggled,
  keysShownSet,
  typingSet,
  findingSet,
  askedFor,
  receiptCame,
  carriedOn,
  carryUndone,
} = slice.actions;
export const viewReducer = slice.reducer;
