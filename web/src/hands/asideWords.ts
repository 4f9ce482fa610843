import type { PassRecorder } from '@sure-hand/core/pass';
import { controlOf, fullName, isSwitch, ownValueAt, type ControlId } from '@sure-hand/core/song';
import { PAN_SCALE, SILENCE_DB, travelOf, printDb, type Seconds } from '@sure-hand/core/units';

/** How many controls are held aside, in words. */
export const asideCount = (count: number): string => `${count} ${count === 1 ? 'control' : 'controls'} held aside`;

/** A control that is held aside: where it is held, where its curve is, and the difference as it is said. */
export type AsideRow = {
  readonly control: ControlId;
  readonly held: number;
  readonly curve: number;
  readonly difference: string;
  /** How far apart they are, in travel. */
  readonly travel: number;
};

/** What lies between two values of a control, as it is said: in dB where it is in dB, of a pan to which side, else in per cent of its throw. */
export function differenceWords(recorder: Pick<PassRecorder, 'song'>, id: ControlId, from: number, to: number): string {
  const control = controlOf(recorder.song, id);
  if (isSwitch(control)) return from === to ? 'the same' : control.scale.print(to);
  const travel = travelOf(control.law, to) - travelOf(control.law, from);
  if (Math.abs(travel) < 1e-9) return 'the same';
  if (control.law.kind === 'level') {
    if (from <= SILENCE_DB) return 'from silence';
    return to <= SILENCE_DB ? 'to silence' : printDb(to - from, true);
  }
  if (control.scale === PAN_SCALE)
    return `${Math.round(100 * Math.abs(to - from))} to the ${to < from ? 'left' : 'right'}`;
  return `${travel < 0 ? '−' : '+'}${Math.round(Math.abs(travel) * 1000) / 10} %`;
}

/** All that is held aside, the furthest from its curve first. */
export function asideRows(recorder: PassRecorder, t: Seconds): AsideRow[] {
  const { song, tryout } = recorder;
  const rows = [...tryout.held].map(([control, held]): AsideRow => {
    const curve = ownValueAt(song, control, t).base;
    const { law } = controlOf(song, control);
    const travel = Math.abs(travelOf(law, held) - travelOf(law, curve));
    return { control, held, curve, travel, difference: differenceWords(recorder, control, curve, held) };
  });
  return rows.sort((a, b) => b.travel - a.travel);
}

/** What a hand on a control does in a tryout, or where it is held aside and how far from its curve. */
export function asideOf(recorder: PassRecorder, id: ControlId, t: Seconds): string {
  const { song, tryout } = recorder;
  const held = tryout.held.get(id);
  const name = fullName(song, id);
  if (held === undefined) return `A hand holds ${name} aside: heard, not written.`;
  const { base } = ownValueAt(song, id, t);
  const { scale } = controlOf(song, id);
  const apart = differenceWords(recorder, id, base, held);
  const from = apart === 'the same' ? 'as its curve is here' : `its curve is at ${scale.print(base)} here`;
  return `${name} is held aside at ${scale.print(held)}; ${from}.`;
}

/** What the hand bar says while a tryout is on. */
export function asideWords(
  recorder: PassRecorder,
  inHand: ControlId | null,
  t: Seconds,
): { readonly says: string; readonly more: string } {
  const { held, isBefore } = recorder.tryout;
  const own = inHand ? asideOf(recorder, inHand, t) : '';
  if (!held.size) return { says: 'Tryout: what you touch is held aside, and nothing of it is written.', more: own };
  if (isBefore) return { says: 'Hearing the curves, without what is held aside. B hears it again.', more: own };
  return {
    says: own || `Tryout: ${asideCount(held.size)}.`,
    more: 'Nothing of it is written until P places it; Y ends the tryout.',
  };
}
