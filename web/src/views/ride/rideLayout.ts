import type { Channel, ControlId, Song } from '@sure-hand/core/song';

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
    };

export type ChannelRow = Extract<RideRow, { kind: 'channel' }>;

/** Sizes of Ride, in CSS pixels. */
export const RIDE = { headPx: 216, meterPx: 14, rulerPx: 26, familyPx: 22, grabPx: 24, lineAt: 1 / 3 } as const;

/** What of the view decides where rows stand. */
export type LayoutView = {
  readonly front: { readonly [channel: string]: ControlId };
  readonly folded: readonly string[];
  readonly pinned: readonly string[];
  readonly slimPx: number;
  readonly tallPx: number;
};

const VCA_FAMILY = 'VCAs';
const MIX_FAMILY = 'Mix';

/** The family a channel stands under; those that name none by their kind. */
export function familyOf({ family, kind }: Channel): string {
  if (family) return family;
  return kind === 'vca' ? VCA_FAMILY : kind === 'track' ? 'Tracks' : MIX_FAMILY;
}

/** Families in the order of their first channels. */
export const familiesOf = (song: Song): string[] => [...new Set(song.channels.map(familyOf))];

/** Stacks the rows: families with their channels, pinned ones and the one in hand tall. */
export function layRows(song: Song, view: LayoutView, inHand: string | null): RideRow[] {
  const rows: RideRow[] = [];
  let top = 0;
  for (const family of familiesOf(song)) {
    const channels = song.channels.filter((channel) => familyOf(channel) === family);
    const folded = view.folded.includes(family);
    rows.push({ kind: 'family', family, top, height: RIDE.familyPx, folded, count: channels.length });
    top += RIDE.familyPx;
    for (const channel of channels) {
      const isTall = channel.key === inHand || view.pinned.includes(channel.key);
      if (folded && !isTall) continue;
      const height = isTall ? view.tallPx : view.slimPx;
      const control = view.front[channel.key] ?? `${channel.key}/level`;
      rows.push({ kind: 'channel', channel, control, top, height, isTall });
      top += height;
    }
  }
  return rows;
}

export const heightOf = (rows: readonly RideRow[]): number => {
  const last = rows.at(-1);
  return last ? last.top + last.height : 0;
};

/** The channel row at a height; null between and beside them. */
export function rowAt(rows: readonly RideRow[], y: number): ChannelRow | null {
  const row = rows.find((one) => y >= one.top && y < one.top + one.height);
  return row?.kind === 'channel' ? row : null;
}

/** Where on a row a travel stands: bottom 0, top 1, with room for the cap at both ends. */
export function yOfTravel(row: { readonly top: number; readonly height: number }, travel: number): number {
  const room = row.height > 60 ? 12 : 6;
  return row.top + room + (1 - travel) * (row.height - 2 * room);
}
