import { type Receipt } from '../edits/index.js';
import {
  channelOf,
  controlOf,
  isSwitch,
  layerScale,
  loopOf,
  unknownControl,
  type Layer,
  type Song,
} from '../song/index.js';
import { snapshotOf } from '../snapshots/index.js';
import { rangeOf } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { PassRecorder } from './recorder.js';

/** What a moves list did to a song, or the sentence that says which of its events could not be taken. */
export type Ridden =
  | { readonly ok: true; readonly song: Song; readonly receipts: readonly Receipt[] }
  | { readonly ok: false; readonly sentence: string };

/**
 * Runs a moves list against a song with the recorder (rules, 9). Without a stop the last pass runs to the song's end,
 * or, in a loop, to the end of its lap. An event that names what is not there, or comes out of order, refuses the whole list.
 */
export function runMoves(song: Song, events: readonly HandEvent[]): Ridden {
  const recorder = new PassRecorder(song);
  const receipts: Receipt[] = [];
  for (const [i, event] of events.entries()) {
    const wrong = whatIsWrong(recorder, event);
    if (wrong) return { ok: false, sentence: `Event ${i + 1} (${event.do}): ${wrong}` };
    // A play begins anew, whatever lap it says.
    const lap = event.do === 'play' ? 0 : (event.lap ?? 0);
    while (recorder.roll && lap > recorder.roll.lap) receipts.push(...recorder.wrap().receipts);
    receipts.push(...recorder.handle(event).receipts);
  }
  if (recorder.roll) {
    const loop = loopOf(recorder.song);
    const end = loop && recorder.roll.from < loop[1] ? loop[1] : song.length;
    receipts.push(...recorder.handle({ do: 'stop', t: Math.max(end, recorder.roll.now) }).receipts);
  }
  return { ok: true, song: recorder.song, receipts };
}

function whatIsWrong(recorder: PassRecorder, event: HandEvent): string | null {
  return whenIsWrong(recorder, event) ?? whatItNamesIsWrong(recorder, event);
}

function whenIsWrong({ song, roll }: PassRecorder, event: HandEvent): string | null {
  if (event.do === 'play') {
    return event.from >= 0 && event.from < song.length
      ? null
      : `it plays from ${event.from} s, outside the song (0 … ${song.length} s).`;
  }
  if (!roll) return null;
  if (event.t === undefined) return 'while rolling every event needs its time t, in seconds.';
  const lap = event.lap ?? roll.lap;
  if (lap < roll.lap) return `it belongs to lap ${lap}, but lap ${roll.lap} is under way; put the events in order.`;
  if (lap > roll.lap) {
    const loop = loopOf(song);
    return loop && roll.from < loop[1] ? null : `it belongs to lap ${lap}, but the song does not loop here.`;
  }
  return event.t < roll.now - 1e-9
    ? `its time ${event.t} s is before ${roll.now} s, where the pass already is; put the events in order.`
    : null;
}

function whatItNamesIsWrong(recorder: PassRecorder, event: HandEvent): string | null {
  const { song } = recorder;
  if ('control' in event && event.control !== undefined) {
    const unknown = unknownControl(song, event.control);
    if (unknown) return unknown;
  }
  if ('channel' in event && event.channel !== undefined && !channelOf(song, event.channel))
    return `the song has no channel “${event.channel}”. Its channels are ${song.channels.map((c) => c.key).join(', ')}.`;
  if (event.do === 'move') return valueIsWrong(song, event.control, recorder.layerGiven(event.control), event.value);
  if (event.do === 'aside') return asideIsWrong(song, event.values);
  return event.do === 'snapshot' ? snapshotIsWrong(song, event.key) : null;
}

function snapshotIsWrong(song: Song, key: string): string | null {
  if (snapshotOf(song, key)) return null;
  const keys = song.snapshots.map((one) => one.key).join(', ');
  return `the song has no snapshot “${key}”. ${keys ? `Its snapshots are ${keys}.` : 'It has none.'}`;
}

function asideIsWrong(song: Song, values: { readonly [id: string]: number }): string | null {
  for (const [id, value] of Object.entries(values)) {
    const wrong = unknownControl(song, id) ?? valueIsWrong(song, id, 'base', value);
    if (wrong) return wrong;
  }
  return null;
}

function valueIsWrong(song: Song, id: string, layer: Layer, value: number): string | null {
  const control = controlOf(song, id);
  const scale = layerScale(control, layer);
  if (isSwitch(control) && value !== 0 && value !== 1) return `${id} is a switch and takes 0 or 1, not ${value}.`;
  const { min, max } = rangeOf(scale.law);
  // Less than silence is silence.
  if (scale.law.kind === 'level' && value < min) return null;
  if (value >= min && value <= max) return null;
  return `${id} takes ${scale.print(min)} to ${scale.print(max)}, not ${value}.`;
}
