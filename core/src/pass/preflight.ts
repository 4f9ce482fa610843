import {
  controlOf,
  controlsOf,
  modeInForce,
  type ControlId,
  type Layer,
  type Refusal,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';
import { layerInHand, whyNotWritten } from './mayWrite.js';

/** A control that a pass would write: on play by itself, or once touched; `to` null where only stop or a release ends it. */
export type WillWrite = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly when: 'play' | 'touched';
  readonly from: Seconds;
  readonly to: Seconds | null;
};

export type Preflight = { readonly will: readonly WillWrite[]; readonly wont: readonly Refusal[] };

/**
 * What a pass from `at` would write and what not, and why: the recorder's own decision before the fact (rules, 5).
 * `poised`: controls that wait with a value.
 */
export function preflight(song: Song, at: Seconds, poised: ReadonlySet<ControlId> = new Set()): Preflight {
  const { punch } = song.settings;
  const from = punch && at < punch[0] ? punch[0] : at;
  const will: WillWrite[] = [];
  const wont: Refusal[] = [];
  for (const id of controlsOf(song).keys()) {
    const reason = whyNotWritten(song, id, from);
    if (reason) wont.push({ control: id, reason });
    else {
      const byItself = modeInForce(song, controlOf(song, id).channel) === 'write' || poised.has(id);
      will.push({
        control: id,
        layer: layerInHand(song, id),
        when: byItself ? 'play' : 'touched',
        from,
        to: punch?.[1] ?? null,
      });
    }
  }
  return { will, wont };
}
