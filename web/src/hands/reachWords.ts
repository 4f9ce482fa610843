import type { Reach, Standing } from '@sure-hand/core/pass';
import { channelOf, type ChannelKey, type Song, channelNamed } from '@sure-hand/core/song';
import { printBars, type MeterMap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { counted } from './countWords.js';
import { layerName } from './reasonWords.js';

/** So many controls are told by name; more of them by number. */
const NAMED = 2;

/** A place for reading, without hundredths where it begins a beat: `17·1`, `17·3.50`. */
export function shortBars(map: MeterMap, t: Seconds): string {
  return printBars(map, t).replace(/\.00$/, '');
}

/** What is reached: by name where it is little, else `127 controls of 30 channels`. `mark` adds to a name. */
export function reachWords(
  song: Song,
  { lanes, channels }: Pick<Reach, 'lanes' | 'channels'>,
  mark: (lane: Reach['lanes'][number]) => string = () => '',
): string {
  if (lanes.length <= NAMED)
    return lanes.map((lane) => `${layerName(song, lane.control, lane.layer)}${mark(lane)}`).join(' and ');
  const [first] = lanes;
  const of = channels === 1 ? channelName(song, channelNamed(first!.control)) : counted(channels, 'channel');
  return `${counted(lanes.length, 'control')} of ${of}`;
}

const channelName = (song: Song, key: ChannelKey): string => channelOf(song, key)?.name ?? key;

/** Channels by name where they are few, else by number; the one in hand first. */
export function channelWords(song: Song, keys: readonly ChannelKey[], inHand: ChannelKey | null): string {
  const ordered = inHand && keys.includes(inHand) ? [inHand, ...keys.filter((key) => key !== inHand)] : keys;
  const names = ordered.map((key) => channelName(song, key));
  if (names.length <= NAMED + 1) return names.join(', ').replace(/, ([^,]*)$/, ' and $1');
  return ordered[0] === inHand ? `${names[0]} and ${names.length - 1} more channels` : counted(names.length, 'channel');
}

/** When and where a control is written, for a list. */
export function standingWords({ stands, from, to }: Standing, map: MeterMap): string {
  const place = shortBars(map, from);
  const end = to === null ? '' : ` to ${shortBars(map, to)}`;
  switch (stands) {
    case 'writing':
      return `Writing since ${place}${end}`;
    case 'returning':
      return 'On its way back';
    case 'play':
      return `By itself from ${place}${end}`;
    case 'touched':
      return `When touched, from ${place}${end}`;
    case 'aside':
      return 'Held aside: written only once it is placed';
    case 'wont':
      return 'Won’t be written';
  }
}
