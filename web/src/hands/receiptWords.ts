import { wrote, type Closeness } from '@sure-hand/core/pass';
import type { LaneReceipt, PassSide, Receipt } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import type { MeterMap } from '@sure-hand/core/time';
import { counted, printCount } from './countWords.js';
import type { HandWords } from './handSentence.js';
import { reachWords, shortBars } from './reachWords.js';
import { layerName, wasRefused } from './reasonWords.js';

/** How closely each lane of a receipt was kept, in the order of its lanes; nothing where that is not known any more. */
export type KeptClose = readonly (Closeness | null)[];

/** How many refusals are told one by one. */
const TOLD = 2;

const place = (map: MeterMap, [from, to]: readonly [number, number]): string =>
  `${shortBars(map, from)}–${shortBars(map, to)}`;

/** Where one lane was written: its spans while they are few, else from the first to the last. */
function spansWords(map: MeterMap, { spans }: LaneReceipt): string {
  if (spans.length <= 2) return spans.map((span) => place(map, span)).join(', ');
  return `${place(map, [spans[0]![0], spans.at(-1)![1]])}, ${spans.length} times`;
}

/** How close a lane was kept to what the hand did: `within 0.12 dB`, and where the hand held still. */
export function closeWords(close: Closeness | null, lane: LaneReceipt): string {
  const plateaus = close?.plateaus ?? 0;
  const still = plateaus ? `, ${plateaus === 1 ? 'held still once' : `held still ${plateaus} times`}` : '';
  return `${withinWords(close?.within ?? fromTravel(lane.maxDeviation))}${still}`;
}

const fromTravel = (travel: number): Closeness['within'] =>
  travel < 1e-9 ? { unit: 'exact' } : { unit: 'travel', travel };

function withinWords(within: Closeness['within']): string {
  switch (within.unit) {
    case 'exact':
      return 'exactly';
    case 'dB':
      return `within ${Math.max(0.01, within.db).toFixed(2)} dB${within.fromDb === null ? '' : ` above −${-within.fromDb} dB`}`;
    case 'travel':
      return `within ${Math.max(0.1, 100 * within.travel).toFixed(1)} % of its throw`;
  }
}

/** Of several the least close: the one with the most dB, of those without any the most travel. */
function worst(receipt: Receipt, close: KeptClose): string {
  const size = (i: number): number => {
    const within = close[i]?.within ?? fromTravel(receipt.lanes[i]!.maxDeviation);
    return within.unit === 'exact' ? 0 : within.unit === 'dB' ? within.db : 100 * within.travel;
  };
  const at = receipt.lanes.reduce((best, _lane, i) => (size(i) > size(best) ? i : best), 0);
  const plateaus = close.reduce((sum, one) => sum + (one?.plateaus ?? 0), 0);
  const within = close[at]?.within ?? fromTravel(receipt.lanes[at]!.maxDeviation);
  return closeWords({ within, plateaus }, receipt.lanes[at]!);
}

/** A receipt in words: what was written where, how it was kept, what was refused and why, as it was then. */
export function receiptWords(
  song: Song,
  map: MeterMap,
  receipt: Receipt,
  { number, close = [] }: { readonly number: number; readonly close?: KeptClose },
): HandWords {
  const others = [refusedWords(song, receipt), restedWords(song, receipt)].filter(Boolean).join(' ');
  const reach = wrote(receipt);
  if (!reach) {
    const says = receipt.rested.length
      ? `That pass wrote no curve; it set where ${restedNames(song, receipt)}, for the whole song.`
      : 'That pass wrote nothing.';
    return { says, more: refusedWords(song, receipt), isWriting: false };
  }
  const says = `Pass ${number}: ${whatWhere(song, map, receipt)}.`;
  return { says, more: [keptWords(receipt, close), others].filter(Boolean).join(' '), isWriting: false };
}

/** What was written and where: lanes one by one while they are two at most, else their number and reach. */
function whatWhere(song: Song, map: MeterMap, receipt: Receipt): string {
  const reach = wrote(receipt)!;
  if (reach.lanes.length > 2) return `${reachWords(song, reach)}, ${place(map, [reach.from, reach.to!])}`;
  return receipt.lanes
    .map((lane) => `${layerName(song, lane.control, lane.layer)} ${spansWords(map, lane)}`)
    .join(', ');
}

function refusedWords(song: Song, { refused }: Receipt): string {
  const said = [
    ...new Set(refused.map(({ control, reason }) => `${layerName(song, control, 'base')} (${wasRefused(reason)})`)),
  ];
  if (!said.length) return '';
  if (said.length > TOLD) return `${said.length} controls heard, not written: Shift+W lists them with the reasons.`;
  return `Heard, not written: ${said.join(', ')}.`;
}

const restedNames = (song: Song, { rested }: Receipt): string =>
  rested.length > TOLD
    ? `${rested.length} controls rest`
    : `${rested.map((id) => layerName(song, id, 'base')).join(' and ')} ${rested.length === 1 ? 'rests' : 'rest'}`;

const restedWords = (song: Song, receipt: Receipt): string =>
  receipt.rested.length ? `It set where ${restedNames(song, receipt)}, for the whole song.` : '';

/** How much a pass has kept, and how closely. */
function keptWords(receipt: Receipt, close: KeptClose): string {
  const moves = receipt.lanes.reduce((sum, lane) => sum + lane.moves, 0);
  const points = receipt.lanes.reduce((sum, lane) => sum + lane.points, 0);
  return `${counted(moves, 'move')} kept as ${printCount(points)} points, ${worst(receipt, close)}.`;
}

/** What a pass wrote that was never ended: the tab or the machine went away under it. */
export const cutShortWords = (song: Song, map: MeterMap, receipt: Receipt): HandWords => ({
  says: `${whatWhere(song, map, receipt)}.`,
  more: keptWords(receipt, []),
  isWriting: false,
});

/** What is heard in place of the song as it stands. */
export function comparedWords(side: PassSide, passNumber: number): HandWords {
  const says =
    side === 'before' ? `Hearing the song as before pass ${passNumber}.` : `Hearing what pass ${passNumber} left.`;
  return { says, more: 'B switches; a hand on a cap goes back to the song as it stands.', isWriting: false };
}
