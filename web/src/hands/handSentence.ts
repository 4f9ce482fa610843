import { layerInHand, preflight, type PassRecorder, type Remedy, type Standing } from '@sure-hand/core/pass';
import {
  channelOf,
  type Channel,
  controlOf,
  fullName,
  isSwitch,
  laneOf,
  modeInForce,
  sendThatIsOff,
  type ControlId,
  type LaneReceipt,
  type Layer,
  type PassSide,
  type Receipt,
  type Reason,
  type Song,
} from '@sure-hand/core/song';
import { printBars, type MeterMap } from '@sure-hand/core/time';
import { TRIM_REACH_DB, printDb, printValue, type Seconds } from '@sure-hand/core/units';

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
  const words = pastOrPresent(moment);
  const off = sendWords(moment);
  return off ? { ...words, more: words.isWriting ? off : `${off} ${words.more}` } : words;
}

function pastOrPresent(moment: HandMoment): HandWords {
  if (moment.recorder.roll) return whileRolling(moment);
  return moment.receipt && !waits(moment) ? afterwards(moment, moment.receipt) : beforehand(moment);
}

/** Whether the next play writes something by itself: that is told before what the last pass did. */
const waits = ({ recorder, position }: HandMoment): boolean =>
  recorder.poised.size > 0 || preflight(recorder.song, position).will.some((one) => one.when === 'play');

/** That the send in hand is off, so that its level and pan are not heard; nothing where it is on. */
function sendWords({ recorder, position, inHand }: HandMoment): string {
  const off = inHand ? sendThatIsOff(recorder.song, inHand, position) : null;
  return off ? `${fullName(recorder.song, inHand!)} is off here: its level is not heard.` : '';
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
    const names = byItself.map(({ control, layer }) => {
      const value = recorder.poised.get(control);
      return `${layerName(song, control, layer)}${value === undefined ? '' : ` (poised ${printInLayer(song, control, value)})`}`;
    });
    const to = byItself[0]!.to;
    const end = to === null ? 'until you stop' : `to ${shortBars(map, to)}`;
    return {
      says: `Play writes ${list(names)} from ${shortBars(map, byItself[0]!.from)} ${end}.`,
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

/** A control by name, with the layer a hand writes where that is its trim. */
export const layerName = (song: Song, id: ControlId, layer: Layer): string =>
  `${fullName(song, id)}${layer === 'trim' ? ' trim' : ''}`;

/** A value as its layer shows it: an offset with its sign, else in the control's own way. */
const printInLayer = (song: Song, id: ControlId, value: number): string =>
  layerInHand(song, id) === 'trim' ? printDb(value, true) : printValue(controlOf(song, id).display, value);

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
      if (song.settings.deskMode !== null) return `The desk mode is ${mode}: ${name} is heard, not written.`;
      return mode === 'off'
        ? `${channel.name} is off: ${name} is heard, not written.`
        : `${channel.name} reads: ${name} is heard while you hold it, not written. 3 puts it in touch.`;
    }
    case 'parked':
      return `Parked: ${name} is heard, not written. K reads it again.`;
    case 'safe':
      return `Safe: ${name} is heard, not written. J takes it out.`;
    case 'scope':
      return `Out of the write scope: ${name} is heard, not written. W widens it.`;
    case 'trim':
      return `${channel.name} trims, and ${name} has no trim: it is heard, not written.`;
    case 'range':
      return `Outside the punch range: ${name} is heard, not written.`;
  }
}

/** The same as it stands at the hand: `Safe: not written`. */
export function refusalWords(song: Song, id: ControlId, reason: Reason): string {
  const why = whyInShort(song, id, reason);
  return `${why[0]!.toUpperCase()}${why.slice(1)}: not written`;
}

/** The same in a few words, for a list. */
export function whyInShort(song: Song, id: ControlId, reason: Reason): string {
  const { channel: key, kind } = controlOf(song, id);
  const { settings } = song;
  switch (reason) {
    case 'mode':
      return settings.deskMode === null ? `in ${modeInForce(song, key)}` : `desk mode ${settings.deskMode}`;
    case 'parked':
      return settings.parked ? 'the song is parked' : channelOf(song, key)!.parked ? 'channel parked' : 'parked';
    case 'safe':
      return laneOf(song, id).safe ? 'safe' : `${kind} safe`;
    case 'scope':
      return `${kind} out of scope`;
    case 'trim':
      return 'trimming, and not in dB';
    case 'range':
      return 'outside the punch range';
  }
}

/** What an act is called that lets a control be written. */
export function remedyWords(song: Song, remedy: Remedy): string {
  switch (remedy.do) {
    case 'mode':
      return `Put ${channelOf(song, remedy.channel)!.name} in ${remedy.mode}`;
    case 'desk':
      return remedy.mode === null ? 'Desk mode off' : `Desk mode to ${remedy.mode}`;
    case 'park':
      if (remedy.control) return 'Read it again';
      return remedy.channel ? `Read ${channelOf(song, remedy.channel)!.name} again` : 'Read the song again';
    case 'safe':
      return 'Take it out of safe';
    case 'scope':
      return 'Widen the scope';
    case 'trim':
      return 'Trim off';
    case 'punchOff':
      return 'Punch off';
    default:
      throw new Error(`no act of a list: ${remedy.do}`);
  }
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
    case 'wont':
      return 'Won’t be written';
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
  const names = list(open.map((take) => layerName(song, take.control, take.layer)));
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
  if (touched && !held.length && ids.every((id) => isSwitch(controlOf(song, id)))) return 'Ends when you let go.';
  if (touched && !held.length) return `Returns over ${song.settings.returnTime} s when you let go.`;
  return 'Held on until you stop, or let go with Esc.';
}

function laneWords(song: Song, map: MeterMap, lane: LaneReceipt): string {
  const spans = lane.spans.map(([from, to]) => `${shortBars(map, from)}–${shortBars(map, to)}`);
  return `${layerName(song, lane.control, lane.layer)} ${list(spans)}`;
}

/** How close a kept lane is to what the hand did. */
export function within(song: Song, lane: LaneReceipt): string {
  const { display } = controlOf(song, lane.control);
  if (lane.maxDeviation < 1e-9) return 'exactly';
  if (lane.layer === 'trim') return `within ${Math.max(0.01, lane.maxDeviation * 2 * TRIM_REACH_DB).toFixed(2)} dB`;
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

/** What is heard in place of the song as it stands. */
export function comparedWords(side: PassSide, passNumber: number): HandWords {
  const says =
    side === 'before' ? `Hearing the song as before pass ${passNumber}.` : `Hearing what pass ${passNumber} left.`;
  return { says, more: 'B switches; a hand on a cap goes back to the song as it stands.', isWriting: false };
}

const afterwards = ({ recorder, map, passNumber }: HandMoment, receipt: Receipt): HandWords =>
  receiptWords(recorder.song, map, receipt, passNumber);
