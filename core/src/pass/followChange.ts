import equal from 'fast-deep-equal';
import {
  channelOf,
  controlOf,
  controlsOf,
  guardOn,
  layerValueAt,
  modeInForce,
  type ControlId,
  type Mode,
  type Reason,
  type Song,
} from '../song/index.js';
import type { Seconds, Travel } from '../units/index.js';
import type { Led } from './finger.js';
import type { HeldHands } from './heldHands.js';
import type { LaneTake } from './laneTake.js';
import { senseOf, travelUnder } from './leading.js';
import { guardsOn, layerInHand } from './mayWrite.js';
import type { Roll } from './roll.js';

/** What of a recorder a change of the song works on: the song as it is after it, the open pass, hands, and how spans end and begin. */
export type Recording = {
  readonly song: Song;
  readonly roll: Roll | null;
  readonly hands: HeldHands;
  readonly position: Seconds;
  /** Why a control is not written at a time. */
  readonly whyNot: (id: ControlId, t: Seconds) => Reason | null;
  /** Ends an open span as the letting go of a finger does. */
  readonly release: (roll: Roll, take: LaneTake) => void;
  /** Begins every span that begins by itself on some controls. */
  readonly beginSpans: (roll: Roll, ids: readonly ControlId[]) => void;
};

/** What a change of modes, guards, trim, scope or punch range ends and begins, by whomever it was made (rules, 4 and 5). */
export function followChange(before: Song, recording: Recording): void {
  const { song, roll, hands } = recording;
  if (before.channels === song.channels && before.settings === song.settings && before.lanes === song.lanes) return;
  followTrim(before, recording);
  if (roll) followGuards(before, recording, roll);
  const changed = song.channels.filter(({ key }) => modeInForce(before, key) !== modeInForce(song, key));
  const keys = new Set(changed.map((channel) => channel.key));
  const ids = [...controlsOf(song).values()].filter((c) => keys.has(c.channel)).map((c) => c.id);
  for (const id of ids) hands.poised.delete(id);
  if (!roll) return;
  for (const take of roll.takes) {
    const { channel } = controlOf(song, take.control);
    if (keys.has(channel) && take.isOpen) followMode(recording, roll, take, modeInForce(song, channel));
  }
  for (const key of keys) if (modeInForce(song, key) === 'write') roll.writeLetGo.delete(key);
  if (ids.length) recording.beginSpans(roll, ids);
  if (!equal(before.settings.punch, song.settings.punch)) followPunch(recording, roll);
}

/** What an open span does when its channel's mode changes under it. */
function followMode({ release }: Recording, roll: Roll, take: LaneTake, mode: Mode): void {
  switch (mode) {
    case 'off':
    case 'read':
      return take.end(roll.now);
    case 'touch':
      if (!take.hasFinger) release(roll, take);
      return;
    case 'latch':
    case 'write':
      return;
  }
}

/** A change of trim clears what is poised, and a finger must touch anew: the hand now gives something else. */
function followTrim(before: Song, { song, roll, hands, position }: Recording): void {
  const turned = song.channels.filter(({ key, trim }) => channelOf(before, key)?.trim !== trim);
  if (!turned.length) return;
  const keys = new Set(turned.map(({ key }) => key));
  for (const id of hands.poised.keys()) if (keys.has(controlOf(song, id).channel)) hands.poised.delete(id);
  const was = new Map<ControlId, Travel>();
  for (const [id, finger] of hands.fingers) {
    const layer = layerInHand(song, id);
    if (finger.isOnBase || layer === layerInHand(before, id)) continue;
    was.set(id, travelUnder(before, id, finger));
    finger.spent = true;
    finger.value = layerValueAt(song, id, layer, roll?.now ?? position);
  }
  // What is led goes on from where it is, by whichever throw it and its leader now have in hand.
  for (const [id, { led }] of hands.fingers) if (led) followThrows(was, song, hands, id, led);
}

/** A companion's distance from its leader, where either has another throw in hand than before. */
function followThrows(
  was: ReadonlyMap<ControlId, Travel>,
  song: Song,
  hands: HeldHands,
  id: ControlId,
  led: Led,
): void {
  const finger = hands.fingers.get(id)!;
  const leads = travelUnder(song, led.by, hands.fingers.get(led.by)!);
  const sense = senseOf(song, led.by);
  if (was.has(id)) finger.led = { ...led, offset: travelUnder(song, id, finger) - sense * leads };
  else if (was.has(led.by))
    finger.led = { ...led, offset: led.offset + sense * ((was.get(led.by) as number) - (leads as number)) };
}

/** Safe, parked, scope or trim: spans concerned end with a step, and fingers on them must touch anew. */
function followGuards(before: Song, { song, hands }: Recording, roll: Roll): void {
  const known = controlsOf(before);
  for (const id of controlsOf(song).keys()) {
    if (!known.has(id)) continue;
    const layer = layerInHand(before, id);
    const isOtherLayer = layer !== layerInHand(song, id);
    if (!isOtherLayer && equal(guardsOn(before, id), guardsOn(song, id))) continue;
    for (const one of ['base', 'trim'] as const) roll.take(id, one)?.end(roll.now);
    const finger = hands.fingers.get(id);
    if (finger) finger.spent = true;
    const guard = guardOn(song, id);
    if (guard !== guardOn(before, id)) roll.heed(id, guard);
  }
}

/** The punch range has moved: spans now outside it end with a step, and those that begin by themselves begin. */
function followPunch({ song, whyNot, beginSpans }: Recording, roll: Roll): void {
  roll.punchedIn = roll.punchedOut = false;
  for (const take of roll.takes)
    if (whyNot(take.control, roll.now) === 'range') {
      take.end(roll.now);
      take.cutLine(roll.now);
    }
  beginSpans(roll, [...controlsOf(song).keys()]);
}
