import type { Command } from './keys/command.js';
import { familyKeys } from './keys/familyKeys.js';
import { guardKeys } from './keys/guardKeys.js';
import { handKeys } from './keys/handKeys.js';
import { laneKeys } from './keys/laneKeys.js';
import { mendKeys } from './keys/mendKeys.js';
import { passKeys } from './keys/passKeys.js';
import { snapshotKeys } from './keys/snapshotKeys.js';
import { tryoutKeys } from './keys/tryoutKeys.js';
import { placeKeys } from './keys/placeKeys.js';
import { viewKeys } from './keys/viewKeys.js';

export type { Command } from './keys/command.js';
export { printKeys } from './keys/keyNames.js';

/** All commands with the keys they come with; a person can change any of them. One list, so that no key is given twice. */
export const COMMANDS: readonly Command[] = [
  ...handKeys,
  ...passKeys,
  ...tryoutKeys,
  ...snapshotKeys,
  ...guardKeys,
  ...familyKeys,
  ...placeKeys,
  ...mendKeys,
  ...laneKeys,
  ...viewKeys,
];

const STORED = 'sure-hand/keys';

/** What keys were called before they went by what is typed. */
const OLDER: Readonly<Record<string, string>> = {
  'shift+slash': 'question',
  'shift+equal': 'plus',
  'shift+bracketleft': 'braceleft',
  'shift+bracketright': 'braceright',
  'shift+period': 'greater',
  'shift+comma': 'less',
  'alt+shift+period': 'alt+greater',
  'alt+shift+comma': 'alt+less',
  backspace: 'shift+enter',
};

/** Keys that a person has changed, by command; of what can't be read nothing. */
export function changedKeys(): { readonly [command: string]: string } {
  try {
    const kept = JSON.parse(localStorage.getItem(STORED) ?? '{}') as Record<string, unknown>;
    const known = Object.entries(kept).filter(([, keys]) => typeof keys === 'string') as [string, string][];
    return Object.fromEntries(known.map(([command, keys]) => [command, OLDER[keys] ?? keys]));
  } catch {
    return {};
  }
}

export function keepChangedKeys(keys: { readonly [command: string]: string }): void {
  try {
    localStorage.setItem(STORED, JSON.stringify(keys));
  } catch {
    // In a browser that keeps nothing they last as long as the page.
  }
}

/** Puts changed keys in place of those that commands come with. */
export const withKeys = (changed: { readonly [command: string]: string }): Command[] =>
  COMMANDS.map((command) => ({ ...command, keys: changed[command.id] ?? command.keys }));
