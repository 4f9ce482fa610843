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

/** Keys that a person has changed, by command. */
export function changedKeys(): { readonly [command: string]: string } {
  try {
    return JSON.parse(localStorage.getItem(STORED) ?? '{}') as Record<string, string>;
  } catch {
    return {};
  }
}

export function keepChangedKeys(keys: { readonly [command: string]: string }): void {
  localStorage.setItem(STORED, JSON.stringify(keys));
}

/** Puts changed keys in place of those that commands come with. */
export const withKeys = (changed: { readonly [command: string]: string }): Command[] =>
  COMMANDS.map((command) => ({ ...command, keys: changed[command.id] ?? command.keys }));

const WORDS: Record<string, string> = {
  space: 'Space',
  enter: 'Enter',
  escape: 'Esc',
  backspace: 'Backspace',
  delete: 'Delete',
  insert: 'Insert',
  up: '↑',
  down: '↓',
  left: '←',
  right: '→',
  equal: '=',
  slash: '/',
  bracketleft: '[',
  bracketright: ']',
  period: '.',
  comma: ',',
  tab: 'Tab',
  shift: 'Shift',
  alt: 'Alt',
  mod: 'Ctrl',
};

/** Keys for reading: `Shift+Ctrl+Z`. */
export const printKeys = (keys: string): string =>
  keys === 'shift+slash'
    ? '?'
    : keys
        .split('+')
        .map((key) => WORDS[key] ?? key.toUpperCase())
        .join('+');
