import { expect, test } from '@jest/globals';
import { COMMANDS } from '../commands.js';
import { NO_LAYOUT, namesOfKey, printKeys, type KeyPressed, type Layout } from './keyNames.js';

type Press = { readonly code: string; readonly key: string; readonly with?: string };
const pressed = ({ code, key, with: mods = '' }: Press): KeyPressed => ({
  ...{ code, key },
  shiftKey: mods.includes('shift'),
  // A third level is told of as Ctrl and Alt, too.
  ctrlKey: mods.includes('ctrl') || mods.includes('third'),
  altKey: mods.includes('alt') || mods.includes('third'),
  metaKey: mods.includes('meta'),
  getModifierState: (what) => what === 'AltGraph' && mods.includes('third'),
});
/** The command that a press leads to: of its names the first that one has. */
const commandOf = (press: Press, layout: Layout = NO_LAYOUT): string | null =>
  namesOfKey(pressed(press), layout)
    .flatMap((name) => COMMANDS.filter((one) => one.keys === name))
    .map(({ id }) => id)[0] ?? null;

/** What keyboards type, at some of their places, and what that leads to. */
const KEYBOARDS: Readonly<Record<string, readonly (readonly [Press, string | null])[]>> = {
  'United States': [
    [{ code: 'KeyZ', key: 'z', with: 'ctrl' }, 'undo'],
    [{ code: 'KeyZ', key: 'Z', with: 'ctrl shift' }, 'redo'],
    [{ code: 'KeyY', key: 'y' }, 'tryout'],
    [{ code: 'Slash', key: '/' }, 'find'],
    [{ code: 'Slash', key: '?', with: 'shift' }, 'keys'],
    [{ code: 'Equal', key: '=' }, 'type'],
    [{ code: 'Digit3', key: '3' }, 'mode-touch'],
    [{ code: 'Numpad3', key: '3' }, 'mode-touch'],
    [{ code: 'Digit3', key: '3', with: 'alt' }, 'desk-touch'],
    [{ code: 'Period', key: '>', with: 'alt shift' }, 'scaleUpFine'],
    [{ code: 'BracketLeft', key: '{', with: 'shift' }, 'wholeSong'],
    [{ code: 'Space', key: ' ' }, 'play'],
    [{ code: 'Backspace', key: 'Backspace' }, 'clear'],
    [{ code: 'KeyZ', key: 'z', with: 'meta' }, 'undo'],
  ],
  German: [
    [{ code: 'KeyY', key: 'z', with: 'ctrl' }, 'undo'],
    [{ code: 'KeyZ', key: 'y' }, 'tryout'],
    [{ code: 'Digit7', key: '/', with: 'shift' }, 'find'],
    [{ code: 'Minus', key: '?', with: 'shift' }, 'keys'],
    [{ code: 'Digit0', key: '=', with: 'shift' }, 'type'],
    [{ code: 'Digit0', key: '0' }, 'trim'],
    [{ code: 'Digit8', key: '[', with: 'third' }, 'wider'],
    [{ code: 'Digit7', key: '{', with: 'third' }, 'wholeSong'],
    [{ code: 'Semicolon', key: 'ö' }, null],
  ],
  French: [
    [{ code: 'KeyW', key: 'z', with: 'ctrl' }, 'undo'],
    [{ code: 'KeyQ', key: 'a', with: 'ctrl' }, 'pickAll'],
    [{ code: 'Semicolon', key: 'm' }, 'mute'],
    [{ code: 'Digit3', key: '"' }, 'mode-touch'],
    [{ code: 'Digit3', key: '3', with: 'shift' }, null],
    [{ code: 'Digit6', key: '-' }, null],
    [{ code: 'Period', key: '/', with: 'shift' }, 'find'],
    [{ code: 'KeyM', key: '?', with: 'shift' }, 'keys'],
    [{ code: 'Equal', key: '=' }, 'type'],
  ],
  Russian: [
    [{ code: 'KeyZ', key: 'я', with: 'ctrl' }, 'undo'],
    [{ code: 'KeyZ', key: 'Я', with: 'ctrl shift' }, 'redo'],
    [{ code: 'KeyY', key: 'н' }, 'tryout'],
    [{ code: 'Digit3', key: '3' }, 'mode-touch'],
    [{ code: 'BracketRight', key: 'ъ' }, 'closer'],
    [{ code: 'Comma', key: 'б' }, 'scrubBack'],
    // Signs that it types count as such.
    [{ code: 'Slash', key: '.' }, 'scrubOn'],
    [{ code: 'Digit7', key: '?', with: 'shift' }, 'keys'],
  ],
};

test.each(Object.entries(KEYBOARDS))(
  'on a %s keyboard keys do what is printed on them, and digits what their place says',
  (_, presses) => {
    expect(presses.map(([press]) => [press, commandOf(press)])).toEqual(presses);
  },
);

test('where Alt types something else, as on a Mac, the letter that its key has counts, or its place', () => {
  const french: Layout = new Map([
    ['KeyQ', 'a'],
    ['KeyA', 'q'],
  ]);
  expect(commandOf({ code: 'KeyQ', key: 'æ', with: 'alt' }, french)).toBe(
    COMMANDS.find(({ keys }) => keys === 'alt+a')!.id,
  );
  expect(commandOf({ code: 'KeyU', key: '¨', with: 'alt' })).toBe(COMMANDS.find(({ keys }) => keys === 'alt+u')!.id);
  expect(commandOf({ code: 'Period', key: '˘', with: 'alt shift' })).toBe('scaleUpFine');
  expect(commandOf({ code: 'Digit3', key: '£', with: 'alt' })).toBe('desk-touch');
});

test('every command is reached on each of these keyboards by a key of its own, and is named as that has it', () => {
  const names = COMMANDS.map(({ keys }) => keys);
  expect(new Set(names).size).toBe(names.length);
  expect(['mod+shift+z', 'space', 'question', 'up', 'alt+greater', 'delete'].map((keys) => printKeys(keys))).toEqual([
    'Ctrl+Shift+Z',
    'Space',
    '?',
    '↑',
    'Alt+>',
    'Delete',
  ]);
  const russian: Layout = new Map([
    ['KeyZ', 'я'],
    ['KeyY', 'н'],
    ['Digit1', '1'],
  ]);
  expect(printKeys('mod+z', russian)).toBe('Ctrl+Я');
  expect(printKeys('mod+z', new Map([['KeyY', 'z']]))).toBe('Ctrl+Z');
});
