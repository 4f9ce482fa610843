import { chorus } from './chorus.js';
import { compressor } from './compressor.js';
import { delay } from './delay.js';
import type { Effect, EffectSettings } from './effect.js';
import { equaliser } from './equaliser.js';
import { filter } from './filter.js';
import { reducer } from './reducer.js';
import { reverb } from './reverb.js';

/** The effects that this program knows, by the name that a document calls them. */
export const EFFECTS = new Map<string, Effect>(
  Object.entries({ equaliser, filter, compressor, delay, reverb, chorus, reducer }),
);

/** What an effect's settings are where nothing is said. */
export const defaultsOf = ({ settings }: Effect): EffectSettings =>
  Object.fromEntries(Object.entries(settings).map(([name, { rest }]) => [name, rest]));

/** The sentence for settings that an effect does not have, or not so; null where they are right. */
export function settingsWrong(effect: string, given: EffectSettings): string | null {
  const { settings } = EFFECTS.get(effect)!;
  const names = Object.keys(settings);
  for (const [name, value] of Object.entries(given)) {
    const setting = Object.hasOwn(settings, name) ? settings[name] : undefined;
    if (!setting)
      return `the effect ${effect} has no setting “${name}”; ${names.length ? `it has ${names.join(' and ')}` : 'it has none'}.`;
    if (!setting.fits(value)) return `the setting “${name}” of the effect ${effect} takes ${setting.takes}.`;
  }
  return null;
}
