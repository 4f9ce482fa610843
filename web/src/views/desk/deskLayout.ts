import { vcasOver } from '@sure-hand/core/groups';
import { channelOf, likeOn, type Channel, type ChannelKey, type ControlId, type Song } from '@sure-hand/core/song';
import { membersOf } from '../../hands/families.js';
import { familyOf, passesFilter, type LaneFilter } from '../../hands/laneFilter.js';
import type { DeskView, StripPx } from '../../store/viewSlice.js';
import { familiesOf, frontOf, type ChannelRow, type LayoutView } from '../ride/rideLayout.js';

/** Sizes of the Desk, in CSS pixels: what lies above and under the throws, and the strips' feet. */
export const DESK = {
  meterTop: 8,
  meterPx: 9,
  throwTop: 26,
  /** Under the throw: its value, what is heard with VCAs, the pan lying across. */
  underPx: 62,
  valueAt: 13,
  sumAt: 29,
  panAt: 48,
  footPx: 132,
  familyPx: 6,
  /** The names of the throw's marks stand at the left of all strips. */
  scalePx: 34,
  /** Where the throw stands in its strip; the bars to come begin there. */
  throwX: 22,
  leastThrow: 150,
  mostThrow: 560,
} as const;

/** A strip of the Desk: a control of a channel, and where it stands among the others, in pixels from the first. */
export type Strip = {
  /** What tells it from all others, as a channel may stand by itself and beside a bus. */
  readonly key: string;
  readonly channel: Channel;
  readonly control: ControlId;
  readonly family: string;
  readonly left: number;
  readonly px: StripPx;
  /** The VCA or bus beside which it stands as a member; null where it stands by itself. */
  readonly beside: ChannelKey | null;
};

/** What of the view decides which strips there are. */
export type StripsView = Pick<LayoutView, 'front'> & { readonly filter: LaneFilter; readonly desk: DeskView };

/** The channels that a VCA reaches, directly or through others, itself among them. */
const underVca = (song: Song, vca: ChannelKey): ReadonlySet<ChannelKey> =>
  new Set(song.channels.filter(({ key }) => key === vca || vcasOver(song, key).includes(vca)).map(({ key }) => key));

/** The control that a channel has on its throw; undefined where it has none such. */
function onThrow(song: Song, channel: Channel, { front, desk }: StripsView): ControlId | undefined {
  return desk.throws === null ? frontOf(front, channel.key) : likeOn(song, channel, desk.throws)?.id;
}

type Placed = Omit<Strip, 'left'>;

/** The members of a VCA, or all sends that feed a bus, as strips beside it. */
const membersBeside = (song: Song, channel: Channel, view: StripsView, family: string): Placed[] =>
  membersOf(song, channel).flatMap(({ key, control: own }): Placed[] => {
    const one = channelOf(song, key);
    // A VCA's members have on their throws what they have by themselves.
    const control = one && channel.kind === 'vca' ? onThrow(song, one, view) : own;
    if (!one || !control) return [];
    const px = widthOf(view.desk, key);
    return [{ key: `${channel.key} ${control}`, channel: one, control, family, px, beside: channel.key }];
  });

const widthOf = ({ px, own }: DeskView, key: ChannelKey): StripPx => (Object.hasOwn(own, key) ? own[key]! : px);

/** The strips that are looked at, in the order of their families; members of what is open stand beside it. */
export function layStrips(song: Song, view: StripsView): Strip[] {
  const { desk, filter } = view;
  const within = desk.vca === null ? null : underVca(song, desk.vca);
  const isLookedAt = (channel: Channel): boolean =>
    (desk.family === null || desk.family === familyOf(channel)) &&
    passesFilter(song, channel, filter) &&
    (!within || within.has(channel.key));
  // What stands beside its VCA does not stand by itself as well.
  const open = song.channels.filter((one) => one.kind === 'vca' && desk.open.includes(one.key) && isLookedAt(one));
  const moved = new Set(open.flatMap(({ members }) => members));
  const placed: Placed[] = [];
  for (const family of familiesOf(song)) {
    for (const channel of song.channels) {
      if (familyOf(channel) !== family || !isLookedAt(channel) || moved.has(channel.key)) continue;
      const control = onThrow(song, channel, view);
      const px = widthOf(desk, channel.key);
      if (control) placed.push({ key: control, channel, control, family, px, beside: null });
      if (desk.open.includes(channel.key)) placed.push(...membersBeside(song, channel, view, family));
    }
  }
  let left = 0;
  return placed.map((strip) => {
    const at = { ...strip, left };
    left += strip.px;
    return at;
  });
}

export const widthOfStrips = (strips: readonly Strip[]): number => {
  const last = strips.at(-1);
  return last ? last.left + last.px : 0;
};

/** How high the throws stand in a view so high. */
export const throwHeight = (viewPx: number): number => {
  const room = viewPx - DESK.throwTop - DESK.underPx - DESK.footPx - DESK.familyPx;
  return Math.max(DESK.leastThrow, Math.min(DESK.mostThrow, room));
};

/** The throw of a strip as the lanes' drawing has a row: as high, its cap on the line where the bars to come begin. */
export const rowOf = ({ channel, control, beside }: Strip, height: number): ChannelRow => ({
  kind: 'channel',
  channel,
  control,
  top: DESK.throwTop,
  height,
  isTall: true,
  isHead: true,
  beside,
});

/** The strip at an x among the strips; null beside them. */
export const stripAt = (strips: readonly Strip[], x: number): Strip | null =>
  strips.find(({ left, px }) => x >= left && x < left + px) ?? null;

/** The strips that are built: those in sight or near it. */
export function stripsNear(strips: readonly Strip[], scrolledPx: number, viewPx: number): readonly Strip[] {
  const near = 2 * 160;
  return strips.filter(({ left, px }) => left + px > scrolledPx - near && left < scrolledPx + viewPx + near);
}
