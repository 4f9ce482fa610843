import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { LoggedLane, Receipt } from '@sure-hand/core/edits';
import { type ControlId, channelNamed, channelOf, controlId, controlsOf, type Song } from '@sure-hand/core/song';
import type { KeptClose } from '../hands/receiptWords.js';
import type { Asked } from '../hands/asked.js';
import type { Carry } from '../hands/carrying.js';
import type { PickedPoints } from '../hands/mending.js';
import type { TimeFormat } from '@sure-hand/core/time';

/** The last pass: its receipt, and how closely its lanes were kept. */
export type LastPass = {
  /** The name it goes by until it has a number in the log. */
  readonly key: string;
  readonly number: number | null;
  readonly receipt: Receipt;
  readonly close: KeptClose;
  /** What it changed, old and new. */
  readonly lanes: readonly LoggedLane[];
  /** Its lanes are as it left them, but for what was carried on since. */
  readonly stands: boolean;
};

/** What is looked at and how: kept in the browser for each song, never an undo step. */
export type ViewState = {
  /** The control that keys and the hand bar act on. */
  readonly inHand: ControlId | null;
  /** The lane drawn in front, by channel; its level where nothing is said. */
  readonly front: { readonly [channel: string]: ControlId };
  readonly pinned: readonly string[];
  readonly folded: readonly string[];
  readonly secPerScreen: number;
  /** Zoomed out to the whole song: it stands, and the line walks over it. */
  readonly isWhole: boolean;
  readonly tallPx: number;
  readonly slimPx: number;
  /** How wide the heads of rows are drawn. */
  readonly headPx: number;
  readonly format: TimeFormat;
  /** The range set with I and O, or dragged; loop and, later, the punch range are switched on over it. */
  readonly range: readonly [number, number] | null;
  readonly scheme: 'lamp' | 'paper';
  readonly keysShown: boolean;
  readonly typing: boolean;
  readonly finding: boolean;
  readonly asked: Asked | null;
  /** The last pass, and whether its receipt is what the hand bar says: something else may have taken its place since. */
  readonly pass: LastPass | null;
  readonly isPassTold: boolean;
  /** What a person has just done, in words: an undo, a resting value set. */
  readonly did: string | null;
  /** Ends and beginnings of its spans that were carried on since, the last one last. */
  readonly carries: readonly Carry[];
  /** Points that mending acts on; none where it is null. */
  readonly picked: PickedPoints | null;
};

const SLIM_PX = 28;
const TALL_PX = 200;
export const HEAD_PX = { least: 160, most: 360, usual: 216 } as const;
const initial: ViewState = {
  inHand: null,
  front: {},
  pinned: [],
  folded: [],
  secPerScreen: 30,
  isWhole: false,
  tallPx: TALL_PX,
  slimPx: SLIM_PX,
  headPx: HEAD_PX.usual,
  format: 'bars',
  range: null,
  scheme: 'lamp',
  keysShown: false,
  typing: false,
  finding: false,
  asked: null,
  pass: null,
  isPassTold: false,
  did: null,
  carries: [],
  picked: null,
};

const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x));
const toggled = (list: readonly string[], item: string): string[] =>
  list.includes(item) ? list.filter((one) => one !== item) : [...list, item];

const slice = createSlice({
  name: 'view',
  initialState: initial,
  reducers: {
    viewRestored: (_state, { payload }: PayloadAction<Partial<ViewState>>) => ({ ...initial, ...payload }),
    takenInHand: (state, { payload }: PayloadAction<ControlId>) => {
      if (state.picked?.control !== payload) state.picked = null;
      state.inHand = payload;
      state.front[channelNamed(payload)] = payload;
    },
    pinToggled: (state, { payload }: PayloadAction<string>) => {
      state.pinned = toggled(state.pinned, payload);
    },
    foldToggled: (state, { payload }: PayloadAction<string>) => {
      state.folded = toggled(state.folded, payload);
    },
    zoomed: (state, { payload }: PayloadAction<number>) => {
      state.secPerScreen = clamp(payload, 0.5, 3600);
      state.isWhole = false;
    },
    /** Shows a whole song, so many seconds long. */
    wholeShown: (state, { payload }: PayloadAction<number>) => {
      state.secPerScreen = payload;
      state.isWhole = true;
    },
    heightsScaled: (state, { payload }: PayloadAction<number>) => {
      state.slimPx = clamp(Math.round(state.slimPx * payload), 20, 120);
      state.tallPx = clamp(Math.round(state.tallPx * payload), 120, 480);
    },
    headsDrawn: (state, { payload }: PayloadAction<number>) => {
      state.headPx = clamp(Math.round(payload), HEAD_PX.least, HEAD_PX.most);
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
      const isSame =
        payload?.what === state.asked?.what && ['writing', 'list', 'cutShort'].includes(payload?.what ?? '');
      state.asked = isSame ? null : payload;
    },
    passMade: (state, { payload }: PayloadAction<LastPass>) => {
      state.pass = payload as never;
      state.isPassTold = true;
      state.did = null;
      state.carries = [];
    },
    /** A pass has its number in the log. */
    passNumbered: (state, { payload }: PayloadAction<{ key: string; number: number }>) => {
      if (state.pass?.key === payload.key) state.pass.number = payload.number;
    },
    /** Whether the last pass's lanes are as it left them: an undo or another hand may have changed them. */
    passStands: (state, { payload }: PayloadAction<boolean>) => {
      if (!state.pass || state.pass.stands === payload) return;
      state.pass.stands = payload;
      state.isPassTold = false;
    },
    /** What the next play would do has changed: that is said, and the receipt stays one act away. */
    passYielded: (state) => {
      state.isPassTold = false;
      state.did = null;
    },
    passRecalled: (state) => {
      state.isPassTold = state.pass !== null;
      state.did = null;
    },
    /** A play begins: what the last pass left on screen goes. */
    playBegan: (state) => {
      state.pass = null;
      state.isPassTold = false;
      state.did = null;
      state.carries = [];
    },
    didSomething: (state, { payload }: PayloadAction<string>) => {
      state.did = payload;
      state.isPassTold = false;
    },
    carriedOn: (state, { payload }: PayloadAction<Carry>) => {
      state.carries.push(payload);
    },
    carryUndone: (state) => {
      state.carries.pop();
    },
    pointsPicked: (state, { payload }: PayloadAction<PickedPoints | null>) => {
      state.picked = payload?.times.length ? (payload as never) : null;
    },
  },
});

export const {
  viewRestored,
  takenInHand,
  pinToggled,
  foldToggled,
  zoomed,
  wholeShown,
  heightsScaled,
  headsDrawn,
  formatChosen,
  rangeSet,
  schemeToggled,
  keysShownSet,
  typingSet,
  findingSet,
  askedFor,
  passMade,
  passNumbered,
  passStands,
  passYielded,
  passRecalled,
  playBegan,
  didSomething,
  carriedOn,
  carryUndone,
  pointsPicked,
} = slice.actions;
export const viewReducer = slice.reducer;

/** Where a hand goes on when what it had is not there any more: to its channel's level, or the first channel's. */
function inHandWithin(inHand: ControlId | null, song: Song): ControlId | null {
  const known = controlsOf(song);
  if (inHand === null || known.has(inHand)) return inHand;
  const own = controlId(channelNamed(inHand), 'level');
  return known.has(own) ? own : ([...known.keys()][0] ?? null);
}

/** The view without what has gone from the song: nothing of it names a control or a channel that is not there. */
export function viewWithin(view: ViewState, song: Song): ViewState {
  const known = controlsOf(song);
  const isThere = ({ control }: { readonly control: ControlId }): boolean => known.has(control);
  const { pass } = view;
  const told = pass ? [...pass.receipt.lanes, ...pass.receipt.refused, ...pass.lanes] : [];
  const isPassThere = told.every(isThere) && (pass?.receipt.rested ?? []).every((id) => known.has(id));
  return {
    ...view,
    inHand: inHandWithin(view.inHand, song),
    front: Object.fromEntries(Object.entries(view.front).filter(([, id]) => known.has(id))),
    pinned: view.pinned.filter((key) => channelOf(song, key)),
    carries: view.carries.filter(isThere),
    picked: view.picked && isThere(view.picked) ? view.picked : null,
    ...(isPassThere ? {} : { pass: null, isPassTold: false }),
  };
}
