import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { LoggedLane, Receipt } from '@sure-hand/core/edits';
import { type ControlId, channelNamed, controlId } from '@sure-hand/core/song';
import type { KeptClose } from '../hands/receiptWords.js';
import type { Asked } from '../hands/asked.js';
import type { SpanChange } from '../hands/carrying.js';
import type { Picked } from '../hands/picking.js';
import type { Grid, TimeFormat } from '@sure-hand/core/time';
import { tourKept, type TourAt } from './tourShelf.js';
import { NO_FILTER, type LaneFilter } from '../hands/laneFilter.js';

/** The last pass: its receipt, and how closely its lanes were kept. */
export type LastPass = {
  /** The name it goes by until it has a number in the log. */
  readonly key: string;
  readonly number: number | null;
  readonly receipt: Receipt;
  readonly close: KeptClose;
  /** What it changed, old and new. */
  readonly lanes: readonly LoggedLane[];
  /** Its lanes are as it left them, but for what was done to its spans since. */
  readonly stands: boolean;
};

/** Which lanes are open: what stands in front of a channel, what is open below that, which rows stay tall. */
export type OpenLanes = {
  /** The lane drawn in front, by channel; its level where nothing is said. */
  readonly front: { readonly [channel: string]: ControlId };
  /** Lanes that stay open one below the other, by channel. */
  readonly stacked: { readonly [channel: string]: readonly ControlId[] };
  readonly pinned: readonly string[];
};

/** The widths of a strip on the Desk: its throw alone, with the bar to come, with four bars and its sends. */
export const STRIP_PX = [44, 88, 160] as const;
export type StripPx = (typeof STRIP_PX)[number];

/** Which strips of the Desk are looked at, and how wide. */
export type DeskView = {
  readonly px: StripPx;
  /** Strips that have a width of their own, by channel. */
  readonly own: { readonly [channel: string]: StripPx };
  /** What stands on all throws, as what it is of each channel (`send/hall/level`); null is what each has in hand. */
  readonly throws: string | null;
  /** VCAs and buses whose members stand beside them. */
  readonly open: readonly string[];
  /** A family, by its name, or the members of a VCA, by its key: nothing else is looked at. */
  readonly family: string | null;
  readonly vca: string | null;
};

/** What is looked at and how: kept in the browser for each song, never an undo step. */
export type ViewState = OpenLanes & {
  /** The control that keys and the hand bar act on. */
  readonly inHand: ControlId | null;
  /** Lanes that are mended together, the one in hand among them; none where it is alone. */
  readonly chosen: readonly ControlId[];
  /** Lanes that were put away, to be brought back; null while none are. */
  readonly away: OpenLanes | null;
  readonly desk: DeskView;
  /** Which rows are looked at. */
  readonly filter: LaneFilter;
  /** What points and ranges snap to; null is nothing. */
  readonly grid: Grid | null;
  /** How long the edges of a lift are, in seconds. */
  readonly liftEdge: number;
  /** The points of the lane in hand stand beside the lanes as a table. */
  readonly numbers: boolean;
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
  /** Where what was placed went, while that is what was done last. */
  readonly placed: readonly (readonly [number, number])[] | null;
  /** What was done to its spans since, the last one last. */
  readonly spanChanges: readonly SpanChange[];
  /** Points that mending acts on; none where it is null. */
  readonly picked: Picked | null;
  /** The snapshot in hand, by its key, and the one it is compared with; null is what is at the line. */
  readonly snapshot: string | null;
  readonly against: string | null;
  /** Sections, by where they begin, that it is placed on; none is the range, or the section under the line. */
  readonly places: readonly number[];
  /** Where the tour is, in this browser and not in this song. */
  readonly tour: TourAt;
  /** The next drag over a lane draws: while a key is held, or once. */
  readonly drawing: 'held' | 'once' | null;
};

const SLIM_PX = 28;
const TALL_PX = 200;
export const HEAD_PX = { least: 160, most: 360, usual: 216 } as const;
const initial: ViewState = {
  inHand: null,
  front: {},
  stacked: {},
  pinned: [],
  chosen: [],
  away: null,
  desk: { px: 88, own: {}, throws: null, open: [], family: null, vca: null },
  filter: NO_FILTER,
  grid: 'beat',
  liftEdge: 0,
  numbers: false,
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
  placed: null,
  spanChanges: [],
  picked: null,
  snapshot: null,
  against: null,
  places: [],
  tour: tourKept(),
  drawing: null,
};

const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x));
const toggled = (list: readonly string[], item: string): string[] =>
  list.includes(item) ? list.filter((one) => one !== item) : [...list, item];

/** Takes a control in hand, and its lane to the front of its channel. */
function putInHand(state: { inHand: ControlId | null; front: { [channel: string]: ControlId } }, id: ControlId): void {
  state.inHand = id;
  state.front[channelNamed(id)] = id;
}

/** Of what a browser has kept, maybe for an earlier version of the program, that which is of the kind it is now. */
function fitting<T extends object>(kept: Partial<T> | undefined, usual: T): Partial<T> {
  const kind = (one: unknown): string => (Array.isArray(one) ? 'list' : typeof one);
  const fits = ([name, value]: [string, unknown]): boolean => {
    if (!Object.hasOwn(usual, name)) return false;
    if (name === 'range' && value !== null) return isRange(value);
    const was = usual[name as keyof T];
    // What is null at first may be anything; what may be null is so at first, but for the grid.
    return was === null || (value === null ? name === 'grid' : kind(value) === kind(was));
  };
  return Object.fromEntries(Object.entries(kept ?? {}).filter(fits)) as Partial<T>;
}

const isRange = (value: unknown): boolean =>
  Array.isArray(value) && value.length === 2 && value.every(Number.isFinite) && value[0] < value[1];

const slice = createSlice({
  name: 'view',
  initialState: initial,
  reducers: {
    viewRestored: (state, { payload }: PayloadAction<Partial<ViewState>>) => ({
      ...initial,
      ...fitting(payload, initial),
      tour: state.tour,
      filter: { ...NO_FILTER, ...fitting(payload.filter, NO_FILTER) },
      desk: { ...initial.desk, ...fitting(payload.desk, initial.desk) },
    }),
    takenInHand: (state, { payload }: PayloadAction<ControlId>) => {
      if (!state.picked?.lanes.some(({ control }) => control === payload)) state.picked = null;
      if (!state.chosen.includes(payload)) state.chosen = [];
      putInHand(state, payload);
    },
    /** The control of a row or strip: of one that stands beside its VCA or bus its channel keeps in front what it has. */
    rowTaken: (state, { payload }: PayloadAction<{ control: ControlId; beside: string | null }>) => {
      const { control, beside } = payload;
      if (!state.picked?.lanes.some((lane) => lane.control === control)) state.picked = null;
      if (!state.chosen.includes(control)) state.chosen = [];
      if (beside === null) putInHand(state, control);
      else state.inHand = control;
    },
    /** A lane comes into hand, and what is picked and chosen elsewhere stays so. */
    takenAsWell: (state, { payload }: PayloadAction<ControlId>) => putInHand(state, payload),
    /** A lane is mended together with those chosen before, or no more. */
    laneChosen: (state, { payload }: PayloadAction<ControlId>) => {
      const before = state.chosen.length ? state.chosen : state.inHand ? [state.inHand] : [];
      const next = toggled(before, payload);
      state.chosen = next.length > 1 ? next : [];
      const hand = next.includes(payload) ? payload : (next.at(-1) ?? payload);
      putInHand(state, hand);
    },
    lanesChosen: (state, { payload }: PayloadAction<readonly ControlId[]>) => {
      state.chosen = payload.length > 1 ? [...payload] : [];
    },
    /** A lane stays open below the others of its channel, or no more. */
    stackToggled: (state, { payload }: PayloadAction<ControlId>) => {
      const channel = channelNamed(payload);
      const before = state.stacked[channel] ?? [state.front[channel] ?? controlId(channel, 'level')];
      const next = toggled(before, payload);
      if (next.length > 1 || (next.length === 1 && next[0] !== state.front[channel])) state.stacked[channel] = next;
      else delete state.stacked[channel];
      if (!next.includes(payload) && state.inHand === payload && next[0]) putInHand(state, next[0]);
    },
    /** All lanes are put away, or those that were come back, with what was opened meanwhile. */
    lanesPutAway: (state) => {
      const { front, stacked, pinned, away } = state;
      if (!away) {
        state.away = { front, stacked, pinned } as never;
        state.front = {};
        state.stacked = {};
        state.pinned = [];
        state.chosen = [];
      } else {
        state.away = null;
        state.front = { ...away.front, ...front };
        state.stacked = { ...away.stacked, ...stacked } as never;
        state.pinned = [...new Set([...away.pinned, ...pinned])];
      }
    },
    filtered: (state, { payload }: PayloadAction<Partial<LaneFilter>>) => {
      state.filter = { ...state.filter, ...payload };
    },
    deskLooked: (state, { payload }: PayloadAction<Partial<DeskView>>) => {
      state.desk = { ...state.desk, ...payload } as never;
    },
    /** The next width: of all strips, or of one channel's alone. */
    stripsWidened: (state, { payload: channel }: PayloadAction<string | null>) => {
      const next = (px: StripPx): StripPx => STRIP_PX[(STRIP_PX.indexOf(px) + 1) % STRIP_PX.length]!;
      if (channel !== null) state.desk.own[channel] = next(state.desk.own[channel] ?? state.desk.px);
      else state.desk = { ...state.desk, px: next(state.desk.px), own: {} };
    },
    /** The members of a VCA or a bus stand beside it, or no more. */
    membersToggled: (state, { payload }: PayloadAction<string>) => {
      state.desk.open = toggled(state.desk.open, payload);
    },
    gridChosen: (state, { payload }: PayloadAction<Grid | null>) => {
      state.grid = payload;
    },
    liftEdgeSet: (state, { payload }: PayloadAction<number>) => {
      state.liftEdge = clamp(payload, 0, 30);
    },
    numbersToggled: (state) => {
      state.numbers = !state.numbers;
    },
    drawingSet: (state, { payload }: PayloadAction<ViewState['drawing']>) => {
      state.drawing = payload;
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
        payload?.what === state.asked?.what && ['writing', 'list', 'aside', 'cutShort'].includes(payload?.what ?? '');
      state.asked = (isSame ? null : payload) as never;
    },
    passMade: (state, { payload }: PayloadAction<LastPass>) => {
      state.pass = payload as never;
      state.isPassTold = true;
      state.did = null;
      state.placed = null;
      state.spanChanges = [];
    },
    /** A pass has its number in the log. */
    passNumbered: (state, { payload }: PayloadAction<{ key: string; number: number }>) => {
      if (state.pass?.key === payload.key) state.pass.number = payload.number;
    },
    /** Whether the last pass's lanes are as it left them, or as what was done to its spans did: an undo or another hand may have changed them. */
    passStands: (state, { payload }: PayloadAction<{ stands: boolean; changes: readonly SpanChange[] }>) => {
      if (!state.pass) return;
      if (payload.stands) state.spanChanges = payload.changes as never;
      if (state.pass.stands === payload.stands) return;
      state.pass.stands = payload.stands;
      state.isPassTold = false;
      // What it wrote is not one any more.
      if (state.picked && !payload.stands) state.picked.isPass = false;
    },
    /** What the next play would do has changed: that is said, and the receipt stays one act away. */
    passYielded: (state) => {
      state.isPassTold = false;
      state.did = null;
      state.placed = null;
    },
    passRecalled: (state) => {
      state.isPassTold = state.pass !== null;
      state.did = null;
      state.placed = null;
    },
    /** A play begins: what the last pass left on screen goes. */
    playBegan: (state) => {
      state.pass = null;
      state.isPassTold = false;
      state.did = null;
      state.placed = null;
      state.spanChanges = [];
    },
    didSomething: (state, { payload }: PayloadAction<string>) => {
      state.did = payload;
      state.isPassTold = false;
      state.placed = null;
    },
    /** Values were placed: what the hand bar says of it, and where they went. */
    placingMade: (
      state,
      { payload }: PayloadAction<{ says: string; ranges: readonly (readonly [number, number])[] }>,
    ) => {
      state.did = payload.says;
      state.placed = payload.ranges as never;
      state.isPassTold = false;
    },
    snapshotInHand: (state, { payload }: PayloadAction<string | null>) => {
      state.snapshot = payload;
      state.placed = null;
      state.did = null;
      if (state.against === payload) state.against = null;
    },
    comparedWith: (state, { payload }: PayloadAction<string | null>) => {
      state.against = payload;
    },
    tourMoved: (state, { payload }: PayloadAction<TourAt>) => {
      state.tour = payload;
    },
    placesChosen: (state, { payload }: PayloadAction<readonly number[]>) => {
      state.places = [...payload];
    },
    pointsPicked: (state, { payload }: PayloadAction<Picked | null>) => {
      state.picked = payload as never;
    },
  },
});

export const { rowTaken } = slice.actions;
export const {
  viewRestored,
  takenInHand,
  takenAsWell,
  laneChosen,
  lanesChosen,
  stackToggled,
  lanesPutAway,
  filtered,
  deskLooked,
  stripsWidened,
  membersToggled,
  gridChosen,
  liftEdgeSet,
  numbersToggled,
  drawingSet,
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
  placingMade,
  snapshotInHand,
  comparedWith,
  placesChosen,
  tourMoved,
  pointsPicked,
} = slice.actions;
/** Takes what stands in a row or strip in hand. */
export const takenInRow = ({ control, beside }: { readonly control: ControlId; readonly beside: string | null }) =>
  rowTaken({ control, beside });
export const viewReducer = slice.reducer;
