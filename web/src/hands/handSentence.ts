import { preflight, type PassRecorder } from '@sure-hand/core/pass';
import {
  channelOf,
  type Channel,
  controlOf,
  fullName,
  laneOf,
  modeInForce,
  type ControlId,
  type LaneReceipt,
  type Receipt,
  type Reason,
  type Song,
} from '@sure-hand/core/song';
import { printBars, type MeterMap } from '@sure-hand/core/time';
import { printValue, type Seconds } from '@sure-hand/core/units';

/** What the hand bar says: one sentence of state, and a quieter one under it. */
export type HandWords = { readonly says: string; readonly more: string; readonly isWriting: boolean };

/** What the sentence is about. */
export type HandMoment = {
  readonly recorder: PassRecorder;
  readonly map: MeterMap;
  readonly position: Seconds;
  readonly receipt: Receipt | null;
  readonly passNumber: number;
  readonly inHand: ControlId | null;
};

/** Travel to dB where the level law is steepest above −30 dB: what a deviation can be at most there. */
const DB_PER_TRAVEL = 75;

/** The sentence of the hand bar for a moment: before, during or after a pass (screens, Hand bar). */
export function handWords(moment: HandMoment): HandWords {
  if (moment.recorder.roll) return whileRolling(moment);
  // What waits for the next play is told before what the last one did.
  const waits = moment.recorder.poised.size > 0;
  return moment.receipt && !waits ? afterwards(moment, moment.receipt) : beforehand(moment);
}

const list = (words: readonly string[]): string =>
  words.length > 3 ? `${words.slice(0, 3).join(', ')} and ${words.length - 3} more` : words.join(', ');

/** A bar for reading, without hundredths where it begins one: `17`, `17.3`, `17.3.50`. */
export function shortBars(map: MeterMap, t: Seconds): string {
  return printBars(map, t).replace(/\.00$/, '');
}

function beforehand({ recorder, map, position }: HandMoment): HandWords {
  const { song } = recorder;
  const { will } = preflight(song, position, new Set(recorder.poised.keys()));
  const byItself = will.filter((one) => one.when === 'play');
  const from = shortBars(map, position);
  if (byItself.length) {
    const names = byItself.map(({ control }) => {
      const value = recorder.poised.get(control);
      return `${fullName(song, control)}${value === undefined ? '' : ` (poised ${printValue(controlOf(song, control).display, value)})`}`;
    });
    const to = byItself[0]!.to;
    const end = to === null ? 'until you stop' : `to ${shortBars(map, to)}`;
    return {
      says: `Play writes ${list(names)} from ${from}, ${end}.`,
      more: touchables(will.length - byItself.length),
      isWriting: false,
    };
  }
  const channels = touchChannels(song);
  if (!channels.length)
    return {
      says: 'Play writes nothing: every channel reads.',
      more: 'Press 3 to put the channel in hand in touch.',
      isWriting: false,
    };
  const modes = [...new Set(channels.map((channel) => modeInForce(song, channel.key)))];
  return {
    says: `Play writes what you touch of ${list(channels.map((channel) => channel.name))}.`,
    more: `From ${from} on, in ${modes.join(' and ')}. Nothing is written before a touch.`,
    isWriting: false,
  };
}

const touchChannels = (song: Song): readonly Channel[] =>
  song.channels.filter((channel) => ['touch', 'latch'].includes(modeInForce(song, channel.key)));

/** What a touch would write while the song rolls. */
function writable(song: Song): string {
  const channels = touchChannels(song);
  return channels.length ? `A touch writes ${list(channels.map((channel) => channel.name))}.` : 'Every channel reads.';
}

const touchables = (count: number): string =>
  count ? `A touch writes ${count} more ${count === 1 ? 'control' : 'controls'}.` : '';

/** Why a hand is heard but not written, and what would change it. */
export function whyOf(song: Song, id: ControlId, reason: Reason): string {
  const name = fullName(song, id);
  const channel = channelOf(song, controlOf(song, id).channel)!;
  switch (reason) {
    case 'mode': {
      const mode = modeInForce(song, channel.key);
      return mode === 'off'
        ? `${channel.name} is off: ${name} is heard, not written.`
        : `${channel.name} reads: ${name} is heard while you hold it, not written. 3 puts it in touch.`;
    }
    case 'parked':
      return `Parked: ${name} is heard, not written.`;
    case 'safe':
      return `Safe: ${name} is heard, not written.`;
    case 'scope':
      return `Out of the write scope: ${name} is heard, not written.`;
    case 'trim':
      return `${channel.name} trims, and ${name} has no trim: it is heard, not written.`;
    case 'range':
      return `Outside the punch range: ${name} is heard, not written.`;
  }
}

function whileRolling({ recorder, position, inHand }: HandMoment): HandWords {
  const { song } = recorder;
  const roll = recorder.roll!;
  const open = roll.takes.filter((take) => take.isOpen);
  const refusal = inHand ? recorder.refusalOf(inHand) : null;
  if (!open.length) {
    const back = roll.takes.filter((take) => take.lineAt(position));
    if (back.length)
      return {
        says: `${list(back.map((take) => fullName(song, take.control)))} on the way back to the curve.`,
        more: '',
        isWriting: true,
      };
    if (refusal && inHand)
      return { says: whyOf(song, inHand, refusal), more: 'Nothing is being written.', isWriting: false };
    return { says: 'Rolling. Nothing is being written.', more: writable(song), isWriting: false };
  }
  const began = Math.min(...open.map((take) => take.spans.at(-1)!.from));
  const names = list(open.map((take) => fullName(song, take.control)));
  const more =
    refusal && inHand
      ? whyOf(song, inHand, refusal)
      : howItEnds(
          recorder,
          open.map((take) => take.control),
        );
  return { says: `Writing ${names}, ${Math.max(0, position - began).toFixed(1)} s.`, more, isWriting: true };
}

function howItEnds({ song, roll }: PassRecorder, ids: readonly ControlId[]): string {
  const held = ids.filter((id) => !roll!.takes.some((take) => take.control === id && take.hasFinger));
  const touched = ids.some((id) => modeInForce(song, controlOf(song, id).channel) === 'touch');
  if (touched && !held.length) return `Returns over ${song.settings.returnTime} s when you let go.`;
  return 'Held on until you stop, or let go with Esc.';
}

function laneWords(song: Song, map: MeterMap, lane: LaneReceipt): string {
  const spans = lane.spans.map(([from, to]) => `${shortBars(map, from)}–${shortBars(map, to)}`);
  return `${fullName(song, lane.control)}${lane.layer === 'trim' ? ' trim' : ''} ${list(spans)}`;
}

function within(song: Song, lane: LaneReceipt): string {
  const { display } = controlOf(song, lane.control);
  if (lane.maxDeviation < 1e-9) return 'exactly';
  if (display === 'dB') return `within ${Math.max(0.01, lane.maxDeviation * DB_PER_TRAVEL).toFixed(2)} dB`;
  return `within ${(lane.maxDeviation * 100).toFixed(1)} % of its travel`;
}

/** A receipt in words: what was written where, how it was kept, and what was refused. */
export function receiptWords(song: Song, map: MeterMap, receipt: Receipt, passNumber: number): HandWords {
  const refusals = [...new Set(receipt.refused.map(({ control, reason }) => whyOf(song, control, reason)))];
  const rested = receipt.rested.map(
    (id) => `${fullName(song, id)} rests at ${printValue(controlOf(song, id).display, laneOf(song, id).rest)}`,
  );
  const others = [...refusals, ...(rested.length ? [`${list(rested)}.`] : [])].join(' ');
  if (!receipt.lanes.length) return { says: 'That pass wrote nothing.', more: others, isWriting: false };
  const what = list(receipt.lanes.map((lane) => laneWords(song, map, lane)));
  const more = [keptWords(song, receipt), others].filter(Boolean).join(' ');
  return { says: `Pass ${passNumber}: ${what}.`, more, isWriting: false };
}

/** How much a pass has kept, and how closely. */
function keptWords(song: Song, receipt: Receipt): string {
  const moves = receipt.lanes.reduce((sum, lane) => sum + lane.moves, 0);
  const points = receipt.lanes.reduce((sum, lane) => sum + lane.points, 0);
  const worst = receipt.lanes.reduce((a, b) => (b.maxDeviation > a.maxDeviation ? b : a));
  return `${moves.toLocaleString('en')} ${moves === 1 ? 'move' : 'moves'} kept as ${points.toLocaleString('en')} points, ${within(song, worst)}.`;
}

/** What a pass wrote that was never ended: the tab or the machine went away under it. */
export function cutShortWords(song: Song, map: MeterMap, receipt: Receipt): HandWords {
  const what = list(receipt.lanes.map((lane) => laneWords(song, map, lane)));
  const more = `${keptWords(song, receipt)} It is not in the song yet: keep it, or drop it.`;
  return { says: `A pass was cut short: ${what}.`, more, isWriting: false };
}

const afterwards = ({ recorder, map, passNumber }: HandMoment, receipt: Receipt): HandWords =>
  receiptWords(recorder.song, map, receipt, passNumber);
