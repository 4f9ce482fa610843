import { EFFECTS, defaultsOf, settingsWrong, type Effect, type EffectSettings } from '../effects/index.js';
import type { Channel, ChannelKey, Insert } from './document.js';

/** A channel has so many inserts at most (page 8). */
export const MOST_INSERTS = 8;

/** What a slot can be called: its name is a part of the names of its controls. */
const SLOT = /^[a-z0-9-]{1,24}$/;

/** The effect of an insert; null where this program does not know it. */
export const effectIn = ({ effect }: Pick<Insert, 'effect'>): Effect | null => EFFECTS.get(effect) ?? null;

/** What an insert's settings are, those that it does not say at their defaults. */
export function settingsOf({ effect, settings }: Insert): EffectSettings {
  const known = EFFECTS.get(effect);
  return known ? { ...defaultsOf(known), ...settings } : settings;
}

/** The channel that an insert listens to in place of its own input; null where it listens to that. */
export function keyOf(insert: Insert): ChannelKey | null {
  const setting = effectIn(insert)?.keySetting;
  return setting === undefined ? null : ((settingsOf(insert)[setting] ?? null) as ChannelKey | null);
}

/** An insert that listens to another channel, or to its own input again. */
export const listeningTo = (insert: Insert, key: ChannelKey | null): Insert => ({
  ...insert,
  settings: { ...insert.settings, [effectIn(insert)!.keySetting!]: key },
});

/** The sentence for inserts that a channel can't have; null where it can have them. */
export function insertsWrong({ name, kind, inserts }: Channel): string | null {
  if (kind === 'vca' && inserts.length) return `${name} is a VCA, which carries no audio, so it has no inserts.`;
  if (inserts.length > MOST_INSERTS)
    return `${name} has ${inserts.length} inserts; a channel has at most ${MOST_INSERTS}. Take ${inserts.length - MOST_INSERTS} out.`;
  const odd = inserts.find(({ slot }) => !SLOT.test(slot));
  if (odd)
    return `The insert “${odd.slot}” of ${name}: a slot is named with a–z, 0–9 and - alone, by at most 24 of them; name it so.`;
  const twice = inserts.find(({ slot }, i) => inserts.findIndex((one) => one.slot === slot) < i);
  if (twice) return `${name} has two inserts in the slot “${twice.slot}”; give one of them another name.`;
  for (const { slot, effect, settings } of inserts) {
    const wrong = EFFECTS.has(effect)
      ? settingsWrong(effect, settings)
      : `there is no effect “${effect}”; there are ${[...EFFECTS.keys()].join(', ')}.`;
    if (wrong) return `The insert “${slot}” of ${name}: ${wrong}`;
  }
  return null;
}
