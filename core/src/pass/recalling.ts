import type { ControlId, Song } from '../song/index.js';
import { recalledFrom, snapshotOf } from '../snapshots/index.js';
import type { HandEvent } from './handEvent.js';
import type { HeldHands } from './heldHands.js';
import { whyNotRecalled } from './mayWrite.js';
import type { Roll } from './roll.js';

/** What of a recorder a snapshot works on. */
type On = { readonly song: Song; readonly roll: Roll | null; readonly hands: HeldHands };

/** Takes up the values of a snapshot: poised while stopped, written from now on while rolling, whatever the modes are (rules, 6). */
export function recallSnapshot({ key, values: given }: HandEvent & { do: 'snapshot' }, on: On): void {
  const snapshot = snapshotOf(on.song, key);
  if (!given && !snapshot) return;
  const { values, gone } = recalledFrom(on.song, given ? { values: given, filter: null } : snapshot!);
  for (const id of gone) (on.roll ?? on.hands.stopped).gone.add(id);
  for (const [id, value] of Object.entries(values)) {
    // What a hand has, or holds aside, is its own.
    if (on.hands.fingers.get(id)?.holds || on.hands.tryout.held.has(id)) continue;
    if (on.roll) recallRolling(on, on.roll, id, value);
    else recallStopped(on, id, value);
  }
}

function poise({ poised, recalled }: HeldHands, id: ControlId, value: number): void {
  poised.set(id, value);
  recalled.add(id);
}

function recallStopped({ song, hands }: On, id: ControlId, value: number): void {
  const { refused } = hands.stopped;
  const reason = whyNotRecalled(song, id, null);
  if (!reason) poise(hands, id, value);
  else if (!refused.some((one) => one.control === id)) refused.push({ control: id, reason });
}

function recallRolling({ song, hands }: On, roll: Roll, id: ControlId, value: number): void {
  const reason = whyNotRecalled(song, id, roll.now);
  const { punch } = song.settings;
  if (reason === 'range' && roll.now < punch![0]) return poise(hands, id, value);
  if (reason) return void roll.refused.push({ control: id, reason });
  for (const layer of ['base', 'trim'] as const) roll.take(id, layer)?.end(roll.now);
  hands.recalled.add(id);
  roll.begin(song, id, 'base', value, false);
}
