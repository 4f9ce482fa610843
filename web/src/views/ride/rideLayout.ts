import type { Receipt } from '@sure-hand/core/edits';
import {
  type Channel,
  type ChannelKey,
  type ControlId,
  type Song,
  channelOf,
  controlId,
  controlsOfChannel,
  channelNamed,
} from '@sure-hand/core/song';
import { membersOf } from '../../hands/families.js';
import { familyOf, frontByFilter, passesFilter, type LaneFilter } from '../../hands/laneFilter.js';

/** A row of Ride: a family's heading, or a channel with the lane that stands in front. Pixels from the first row's top. */
export type RideRow =
  | {
      readonly kind: 'family';
      readonly family: string;
      readonly top: number;
      readonly height: number;
      readonly folded: boolean;
      readonly count: number;
    }
  | {
      readonly kind: 'channel';
      readonly channel: Channel;
      readonly control: ControlId;
      readonly top: number;
      readonly height: number;
      readonly isTall: boolean;
      /** The first row of its channel, which has its head; lanes that are open below it have only their names. */
      readonly isHead: boolean;
      /** The VCA or bus under which it stands as one of its members; null where it stands in its own channel. */
      readonly beside: ChannelKey | null;
    };

export type ChannelRow = Extract<RideRow, { kind: 'channel' }>;

/** Sizes of Ride, in CSS pixels. */
export const RIDE = { meterPx: 14, rulerPx: 26, familyPx: 22, grabPx: 24, lineAt: 1 / 3 } as const;

/** The lane that stands in front of a channel: its level where none was chosen. */
export const frontOf = (front: LayoutView['front'], channel: ChannelKey): ControlId =>
  (Object.hasOwn(front, channel) ? front[channel] : undefined) ?? controlId(channel, 'level');

/** What of the view decides where rows stand. */
export type LayoutView = {
  readonly front: { readonly [channel: string]: ControlId };
  readonly stacked: { readonly [channel: string]: readonly ControlId[] };
  readonly filter: LaneFilter;
  /** Lanes that are mended together: they are open meanwhile. */
  readonly chosen: readonly ControlId[];
  readonly folded: readonly string[];
  readonly pinned: readonly string[];
  readonly slimPx: number;
  readonly tallPx: number;
  readonly desk: { readonly open: readonly ChannelKey[] };
};

/** Families in the order of their first channels. */
export const familiesOf = (song: Song): string[] => [...new Set(song.channels.map(familyOf))];

/** So many lanes that a pass wrote stay open after it. */
const OPEN_AFTER = 3;
/** How tall they stand, so that the one in hand still stands out. */
const OPEN_PX = 120;

/**
 * The lanes that stay open after a pass, by channel: what it wrote, the lane in front where that is among them. Of more
 * channels than stay open only those do that a hand moved: a desk in write opens none by itself.
 */
export function lanesOpenAfter(
  { lanes }: Receipt,
  front: LayoutView['front'],
): { readonly [channel: string]: ControlId } {
  const open = new Map<ChannelKey, ControlId>();
  const areFew = new Set(lanes.map(({ control }) => channelNamed(control))).size <= OPEN_AFTER;
  for (const { control, moves } of lanes) {
    if (!areFew && !moves) continue;
    const channel = channelNamed(control);
    const isFront = frontOf(front, channel) === control;
    if (open.has(channel) ? isFront : open.size < OPEN_AFTER) open.set(channel, control);
  }
  return Object.fromEntries(open);
}

/** Which rows stand tall: the channel in hand, and what the last pass wrote, until the next act, or is mended with the lane in hand. */
export type TallRows = { readonly inHand: string | null; readonly written: { readonly [channel: string]: ControlId } };

/** Whether the same rows stand tall. */
export function sameTall(a: TallRows, b: TallRows): boolean {
  const [open, other] = [Object.entries(a.written), b.written];
  return (
    a.inHand === b.inHand &&
    open.length === Object.keys(other).length &&
    open.every(([channel, control]) => other[channel] === control)
  );
}

/** The lanes of a channel that are open, in its own order: those that stay open below each other, and the one in front. */
function openLanes(song: Song, channel: Channel, stack: readonly ControlId[], front: ControlId): readonly ControlId[] {
  if (!stack.length) return [front];
  return controlsOfChannel(song, channel).flatMap(({ id }) => (id === front || stack.includes(id) ? [id] : []));
}

/** The rows of a channel from a height on: one, or one for each lane that is open; none where it is folded away or filtered out. */
function rowsOf(
  song: Song,
  channel: Channel,
  view: LayoutView,
  { tall, isFolded, top }: { readonly tall: TallRows; readonly isFolded: boolean; readonly top: number },
): ChannelRow[] {
  const isHeld = channel.key === tall.inHand || view.pinned.includes(channel.key);
  const fresh = Object.hasOwn(tall.written, channel.key) ? tall.written[channel.key] : undefined;
  const chosen = view.chosen.filter((id) => channelNamed(id) === channel.key);
  const isKept = isHeld || fresh !== undefined || chosen.length > 0;
  if (!isKept && (isFolded || !passesFilter(song, channel, view.filter))) return [];
  const own = frontOf(view.front, channel.key);
  const isInHand = channel.key === tall.inHand;
  const front = (isInHand ? null : (fresh ?? chosen[0] ?? frontByFilter(song, channel, view.filter, own))) ?? own;
  const open = [...(view.stacked[channel.key] ?? []), ...chosen];
  const lanes = openLanes(song, channel, open, front);
  const isTall = isKept || lanes.length > 1;
  const below = Math.max(view.slimPx, Math.min(OPEN_PX, view.tallPx));
  let at = top;
  return lanes.map((control, i) => {
    const height = i > 0 ? below : isHeld ? view.tallPx : isTall ? Math.max(OPEN_PX, view.slimPx) : view.slimPx;
    const row: ChannelRow = {
      kind: 'channel',
      channel,
      control,
      top: at,
      height,
      isTall,
      isHead: i === 0,
      beside: null,
    };
    at += height;
    return row;
  });
}

/** How tall the members of a VCA, or the sends that feed a bus, stand under it. */
const MEMBER_PX = 40;

/** The members of a VCA, or the sends that feed a bus, under its own rows: each a lane of another channel. */
function memberRows(song: Song, channel: Channel, view: LayoutView, top: number): ChannelRow[] {
  if (!view.desk.open.includes(channel.key)) return [];
  const height = Math.max(view.slimPx, MEMBER_PX);
  return membersOf(song, channel).flatMap(({ key, control }, i): ChannelRow[] => {
    const one = channelOf(song, key);
    const at = { top: top + i * height, height, isTall: false, isHead: false, beside: channel.key };
    return one ? [{ kind: 'channel', channel: one, control, ...at }] : [];
  });
}

/** Stacks the rows: families with their channels, pinned ones and the one in hand tall, what was just written open. */
export function layRows(song: Song, view: LayoutView, tall: TallRows): RideRow[] {
  const rows: RideRow[] = [];
  let top = 0;
  for (const family of familiesOf(song)) {
    const channels = song.channels.filter((channel) => familyOf(channel) === family);
    const folded = view.folded.includes(family);
    const shown = channels.filter((channel) => passesFilter(song, channel, view.filter));
    const heading = { kind: 'family', family, top, height: RIDE.familyPx, folded, count: shown.length } as const;
    const own: ChannelRow[] = [];
    let at = top + RIDE.familyPx;
    for (const channel of channels) {
      const rows = rowsOf(song, channel, view, { tall, isFolded: folded, top: at });
      own.push(...rows);
      at = heightOf(own) || at;
      if (rows.length) own.push(...memberRows(song, channel, view, at));
      at = heightOf(own) || at;
    }
    // A family of which nothing is looked at has no heading either.
    if (!shown.length && !own.length) continue;
    rows.push(heading, ...own);
    top = at;
  }
  return rows;
}

/** The channel row that keeps its place on the screen while others grow: the one in hand if it is in sight, else the first that is. */
export function steadyRow(
  rows: readonly RideRow[],
  inHand: string | null,
  top: number,
  room: number,
): ChannelRow | null {
  const seen = rows.flatMap((row) =>
    row.kind === 'channel' && row.isHead && row.top + row.height > top && row.top < top + room ? [row] : [],
  );
  return seen.find((row) => row.channel.key === inHand) ?? seen[0] ?? null;
}

export const heightOf = (rows: readonly RideRow[]): number => {
  const last = rows.at(-1);
  return last ? last.top + last.height : 0;
};

/** Rows are built as they come within so many pixels of what is seen, and this often on the way. */
const NEAR_PX = 240;
const BAND_PX = 120;

/** The band of rows that is looked at, scrolled so far: while it stays the same the same rows are built. */
export const bandOf = (scrolledPx: number): number => Math.floor(scrolledPx / BAND_PX);

/** The rows that are built: those in sight or near it, and the one in hand wherever it is. */
export function rowsNear(
  rows: readonly RideRow[],
  { band, room, inHand }: { readonly band: number; readonly room: number; readonly inHand: string | null },
): readonly RideRow[] {
  const from = band * BAND_PX - NEAR_PX;
  const to = (band + 1) * BAND_PX + room + NEAR_PX;
  const isNear = ({ top, height }: RideRow): boolean => top + height > from && top < to;
  return rows.filter((row) => isNear(row) || (row.kind === 'channel' && row.channel.key === inHand));
}

/** The channel row at a height; null between and beside them. */
export function rowAt(rows: readonly RideRow[], y: number): ChannelRow | null {
  const row = rows.find((one) => y >= one.top && y < one.top + one.height);
  return row?.kind === 'channel' ? row : null;
}

type Placed = { readonly top: number; readonly height: number };
/** What a row leaves free for the cap at either end of the throw. */
const endRoom = ({ height }: Pick<Placed, 'height'>): number => (height > 60 ? 12 : 6);

/** How many pixels of a row are the whole throw. */
export const roomOfThrow = (row: Pick<Placed, 'height'>): number => row.height - 2 * endRoom(row);

/** The travel that stands at a height of a row: the reverse of {@link yOfTravel}. */
export const travelOfY = (row: Placed, y: number): number =>
  Math.min(1, Math.max(0, 1 - (y - row.top - endRoom(row)) / roomOfThrow(row)));

/** Where on a row a travel stands: bottom 0, top 1, with room for the cap at both ends. */
export const yOfTravel = (row: Placed, travel: number): number =>
  row.top + endRoom(row) + (1 - travel) * roomOfThrow(row);
