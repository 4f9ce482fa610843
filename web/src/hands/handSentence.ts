import {
  givesOffset,
  handDoes,
  playWrites,
  touchWrites,
  writesNow,
  writingEnds,
  type PassRecorder,
} from '@sure-hand/core/pass';
import { type Receipt } from '@sure-hand/core/edits';
import {
  controlOf,
  fullName,
  isSwitch,
  modeInForce,
  gateThatIsOff,
  type ControlId,
  type Song,
  layerScale,
} from '@sure-hand/core/song';
import type { MeterMap } from '@sure-hand/core/time';
import { type Seconds } from '@sure-hand/core/units';
import { channelWords, reachWords, shortBars } from './reachWords.js';
import { layerName, restsOf, whyOf } from './reasonWords.js';
import { asideOf, asideWords } from './asideWords.js';
import { receiptWords, type KeptClose } from './receiptWords.js';

/** What the hand bar says: one sentence of state, and a quieter one under it. `spoken`: how it is read out, where that is another. */
export type HandWords = {
  readonly says: string;
  readonly more: string;
  readonly isWriting: boolean;
  readonly spoken?: string;
};

/** The last pass as it is told of: its receipt, its number in the log (to be), how closely it was kept. */
export type ToldPass = { readonly receipt: Receipt; readonly number: number; readonly close?: KeptClose };

/** What the sentence is about. */
export type HandMoment = {
  readonly recorder: PassRecorder;
  readonly map: MeterMap;
  readonly position: Seconds;
  /** The last pass, while its receipt is what there is to say. */
  readonly told: ToldPass | null;
  /** What a person has just done, while it is: an undo, a resting value set. */
  readonly did?: string | null;
  readonly inHand: ControlId | null;
};

/** The sentence of the hand bar for a moment: before, during or after a pass (screens, Hand bar). */
export function handWords(moment: HandMoment): HandWords {
  const words = moment.recorder.roll ? whileRolling(moment) : standing(moment);
  const off = gateWords(moment);
  return off ? { ...words, more: words.isWriting ? off : joined(off, words.more) } : words;
}

const joined = (...sentences: readonly string[]): string => sentences.filter(Boolean).join(' ');

/** Stopped: what the next play writes by itself comes before what was done. */
function standing(moment: HandMoment): HandWords {
  const { recorder, map, position, told, did } = moment;
  if (playWrites(recorder.song, position, recorder.waiting) || (!told && !did)) {
    const words = beforehand(moment);
    return did ? { ...words, more: joined(did, words.more) } : words;
  }
  if (did) return { says: did, more: beforehand(moment).says, isWriting: false };
  return receiptWords(recorder.song, map, told!.receipt, told!);
}

/** That the send or insert in hand is off, so that it is not heard; nothing where it is on. */
function gateWords({ recorder, position, inHand }: HandMoment): string {
  const off = inHand ? gateThatIsOff(recorder.song, inHand, position) : null;
  return off ? `${fullName(recorder.song, inHand!)} is off here: ${off.unheard}.` : '';
}

function beforehand(moment: HandMoment): HandWords {
  const { recorder, map, position, inHand } = moment;
  const { song } = recorder;
  const reach = playWrites(song, position, recorder.waiting);
  const truth = handTruth(moment);
  if (reach) {
    const poised = (id: ControlId): string => {
      const value = recorder.poised.get(id);
      return value === undefined ? '' : ` (poised ${printInLayer(recorder, id, value)})`;
    };
    const what = reachWords(song, reach, ({ control }) => poised(control));
    const end = reach.to === null ? 'until you stop' : `to ${shortBars(map, reach.to)}`;
    const from = shortBars(map, reach.from);
    return {
      says: `Play writes ${what} from ${from} ${end}.`,
      more: joined(truth, listed(reach.lanes.length)),
      isWriting: false,
    };
  }
  const aside = tryoutWords(moment);
  if (aside) return aside;
  if (song.settings.parked)
    return {
      says: 'The song is parked: no curve is read, and play writes nothing.',
      more: joined('Alt+Shift+K reads it again.', inHand && handDoes(recorder, inHand) === 'rests' ? truth : ''),
      isWriting: false,
    };
  const channels = touchWrites(song, position, recorder.waiting);
  const own = inHand ? controlOf(song, inHand).channel : null;
  const touch = channels.length ? `Play writes what you touch of ${channelWords(song, channels, own)}.` : nothing(song);
  // What concerns the control in hand comes first: that a hand on it will not be written, or what lasts of it.
  const reason = inHand === null ? null : whyNotFrom(moment, inHand);
  // Of a hand that has poised its value there is nothing more to say than what play does.
  if (reason === null || !truth)
    return { says: touch, more: joined(truth, fromWords(moment, channels)), isWriting: false };
  const helps = !channels.length && reason === 'mode' && song.settings.deskMode === null;
  return {
    says: truth,
    more: joined(touch, helps ? 'Press 3 to put the channel in hand in touch.' : ''),
    isWriting: false,
  };
}

/** While a tryout is on: what a hand does now, and what waits to be placed. Nothing while none is. */
function tryoutWords({ recorder, position, inHand }: HandMoment): HandWords | null {
  if (!recorder.tryout.isOn) return null;
  const words = asideWords(recorder, inHand, position);
  return { ...words, isWriting: false };
}

const listed = (count: number): string => (count > 2 ? 'Shift+W lists them.' : '');

/** From where what is touched is written: where the line stands, or where the punch range begins. */
function fromWords({ recorder, map, position }: HandMoment, channels: readonly string[]): string {
  if (!channels.length) return '';
  const { punch } = recorder.song.settings;
  const from = punch && position < punch[0] ? punch[0] : position;
  const ends = writingEnds(recorder.song, position);
  const to = ends
    ? ` to ${shortBars(map, ends.at)}, where the ${ends.by === 'range' ? 'punch range' : 'lap'} ends`
    : ' on';
  return `From ${shortBars(map, from)}${to}; nothing is written before a touch.`;
}

const whyNotFrom = ({ recorder, position }: HandMoment, id: ControlId) => {
  const { punch } = recorder.song.settings;
  return recorder.whyNot(id, punch && position < punch[0] ? punch[0] : position);
};

/** That play writes nothing, and why. */
function nothing(song: Song): string {
  const modes = new Set(song.channels.map(({ key }) => modeInForce(song, key)));
  if (modes.size === 1 && modes.has('read')) return 'Play writes nothing: every channel reads.';
  const writes = [...modes].some((mode) => mode !== 'off' && mode !== 'read');
  return writes
    ? 'Play writes nothing: what is in touch, latch or write is guarded, out of scope or outside the range.'
    : 'Play writes nothing: every channel is off or reads.';
}

/** What a hand on the control in hand does now, where that is not simply to be written. */
function handTruth(moment: HandMoment): string {
  const { recorder, inHand } = moment;
  if (!inHand) return '';
  const { song } = recorder;
  const offset = givesOffset(recorder, inHand)
    ? `Trim is on: a hand on ${fullName(song, inHand)} gives an offset.`
    : '';
  switch (handDoes(recorder, inHand)) {
    case 'writes':
      return offset;
    case 'poises':
      return joined(offset, recorder.poised.size ? '' : 'Stopped, a hand poises a value for the next play.');
    case 'rests':
      return restsOf(song, inHand);
    case 'aside':
      return asideOf(recorder, inHand, moment.position);
    case 'heard': {
      const reason = whyNotFrom(moment, inHand);
      return reason === null
        ? joined(offset, 'Stopped, a hand is only heard: the curve has it.')
        : whyOf(song, inHand, reason);
    }
  }
}

/** A value as its layer shows it: an offset with its sign, else in the control's own way. */
const printInLayer = (recorder: PassRecorder, id: ControlId, value: number): string =>
  layerScale(controlOf(recorder.song, id), recorder.layerOf(id)).print(value);

function whileRolling(moment: HandMoment): HandWords {
  const { recorder, position, inHand } = moment;
  const { song } = recorder;
  const roll = recorder.roll!;
  const reach = writesNow(recorder, writingEnds(song, position)?.at ?? null);
  const refused = inHand ? refusedHand(recorder, inHand) : '';
  if (reach) {
    const sec = Math.max(0, position - reach.from).toFixed(1);
    const what = `Writing ${reachWords(song, reach)}`;
    const ids = reach.lanes.map(({ control }) => control);
    const more = refused || howItEnds(moment, ids);
    return { says: `${what}, ${sec} s.`, more, isWriting: true, spoken: `${what}. ${more}` };
  }
  const back = roll.takes.filter((take) => take.lineAt(position));
  if (back.length) {
    const names =
      back.length > 2
        ? `${back.length} controls`
        : back.map((take) => layerName(song, take.control, take.layer)).join(' and ');
    return { says: `${names} on the way back to the curve.`, more: refused, isWriting: true };
  }
  if (refused) return { says: refused, more: 'No curve is being written.', isWriting: false };
  const aside = tryoutWords(moment);
  if (aside) return moment.did ? { ...aside, more: joined(moment.did, aside.more) } : aside;
  const idle = 'Rolling. Nothing is being written.';
  // What was mended meanwhile is told, and that no pass has done it.
  if (moment.did) return { says: moment.did, more: joined(idle, writable(moment)), isWriting: false };
  return { says: idle, more: joined(handTruth(moment), writable(moment)), isWriting: false };
}

/** Why the hand that is on a control writes nothing, or what it does instead; nothing where none is there. */
function refusedHand(recorder: PassRecorder, id: ControlId): string {
  const reason = recorder.refusalOf(id);
  if (!reason) return '';
  return handDoes(recorder, id) === 'rests' ? restsOf(recorder.song, id) : whyOf(recorder.song, id, reason);
}

/** What a touch would write while the song rolls. */
function writable({ recorder, position, inHand }: HandMoment): string {
  const { song } = recorder;
  const channels = touchWrites(song, position, { poised: new Set(), aside: recorder.waiting.aside! });
  if (!channels.length) return 'A touch writes nothing.';
  return `A touch writes ${channelWords(song, channels, inHand ? controlOf(song, inHand).channel : null)}.`;
}

/** How what is being written ends: by the hand, by the range or the lap, or only by a stop. */
function howItEnds({ recorder, map, position }: HandMoment, ids: readonly ControlId[]): string {
  const { song, roll } = recorder;
  const ends = writingEnds(song, position);
  const byItself = ends
    ? ` to ${shortBars(map, ends.at)}, where the ${ends.by === 'range' ? 'punch range' : 'lap'} ends`
    : '';
  const held = ids.filter((id) => !roll!.takes.some((take) => take.control === id && take.hasFinger));
  const touched = ids.some((id) => modeInForce(song, controlOf(song, id).channel) === 'touch');
  if (touched && !held.length) {
    const at = byItself ? ` At the latest${byItself}.` : '';
    if (ids.every((id) => isSwitch(controlOf(song, id)))) return `Ends when you let go.${at}`;
    return `Returns over ${song.settings.returnTime} s when you let go.${at}`;
  }
  return byItself ? `Held on${byItself}, or let go with Esc.` : 'Held on until you stop, or let go with Esc.';
}
