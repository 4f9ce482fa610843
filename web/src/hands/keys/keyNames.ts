/** What of a key's event says which key it is. */
export type KeyPressed = Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'> &
  Partial<Pick<KeyboardEvent, 'getModifierState'>>;

/** What a keyboard types by itself at each of its places, as far as it is known: `KeyZ` types `y` on a German one. */
export type Layout = ReadonlyMap<string, string>;
export const NO_LAYOUT: Layout = new Map();

/** Names of signs, as they stand in the keys of commands: there a plus joins keys. */
const SIGNS: ReadonlyMap<string, string> = new Map(
  Object.entries({
    '=': 'equal',
    '+': 'plus',
    '-': 'minus',
    '/': 'slash',
    '?': 'question',
    '[': 'bracketleft',
    ']': 'bracketright',
    '{': 'braceleft',
    '}': 'braceright',
    '(': 'parenleft',
    ')': 'parenright',
    '<': 'less',
    '>': 'greater',
    '.': 'period',
    ',': 'comma',
    ';': 'semicolon',
    ':': 'colon',
    "'": 'quote',
    '"': 'quotes',
    '\\': 'backslash',
    '|': 'bar',
    '`': 'backquote',
    '~': 'tilde',
    '!': 'exclamation',
    '@': 'at',
    '#': 'hash',
    $: 'dollar',
    '%': 'percent',
    '^': 'caret',
    '&': 'ampersand',
    '*': 'asterisk',
    _: 'underscore',
  }),
);

/** Keys that type nothing, by what browsers call them. One that takes away is one, whatever the maker of a keyboard calls it. */
const NAMED: Readonly<Record<string, string>> = {
  ' ': 'space',
  Enter: 'enter',
  Escape: 'escape',
  Backspace: 'delete',
  Delete: 'delete',
  Insert: 'insert',
  Tab: 'tab',
  ArrowUp: 'up',
  ArrowDown: 'down',
  ArrowLeft: 'left',
  ArrowRight: 'right',
  Home: 'home',
  End: 'end',
  PageUp: 'pageup',
  PageDown: 'pagedown',
};

/** What stands at a place of the keyboard that most others are told from: where a layout types no Latin letter, that counts. */
const PLACES: ReadonlyMap<string, readonly [plain: string, withShift: string]> = new Map(
  Object.entries({
    Minus: ['-', '_'],
    Equal: ['=', '+'],
    BracketLeft: ['[', '{'],
    BracketRight: [']', '}'],
    Semicolon: [';', ':'],
    Quote: ["'", '"'],
    Backquote: ['`', '~'],
    Backslash: ['\\', '|'],
    Comma: [',', '<'],
    Period: ['.', '>'],
    Slash: ['/', '?'],
  }),
);

const isLetter = (typed: string): boolean => /^[a-z]$/i.test(typed);
const digitAt = (code: string): string | undefined => /^(?:Digit|Numpad)(\d)$/.exec(code)?.[1];
const letterAt = (code: string): string | undefined => /^Key([A-Z])$/.exec(code)?.[1]?.toLowerCase();

/**
 * The names that a press of a key may go by, the first that means anything being meant. Latin letters and signs count as they are typed, with
 * whatever it takes to type them: `?` is `question` on every keyboard. Where others are typed the place counts, and for digits always.
 */
export function namesOfKey(event: KeyPressed, layout: Layout = NO_LAYOUT): readonly string[] {
  const named = NAMED[event.key];
  const { key, code, shiftKey: shift } = event;
  // What a third level of the keyboard types is typed, though browsers tell of it as Ctrl and Alt.
  const isThird = (event.getModifierState?.('AltGraph') ?? false) && SIGNS.has(key);
  const mods = isThird ? [] : [...(event.ctrlKey || event.metaKey ? ['mod'] : []), ...(event.altKey ? ['alt'] : [])];
  const name = (one: string, isShifted = false): string => [...mods, ...(isShifted ? ['shift'] : []), one].join('+');
  if (named) return [name(named, shift)];
  const typed = SIGNS.get(key);
  const digit = digitAt(code);
  if (digit !== undefined) {
    const atPlace = name(digit, shift);
    if (!typed) return [atPlace];
    // Without Shift it is the digit's key, whatever stands on it; with it what is typed comes first.
    return shift || isThird ? [name(typed), atPlace] : [atPlace, name(typed)];
  }
  if (isLetter(key)) return [name(key.toLowerCase(), shift)];
  if (typed) return [name(typed)];
  const known = layout.get(code);
  if (known && isLetter(known)) return [name(known.toLowerCase(), shift)];
  const letter = letterAt(code);
  if (letter) return [name(letter, shift)];
  const place = PLACES.get(code);
  return place ? [name(SIGNS.get(place[shift ? 1 : 0])!)] : [];
}

const WORDS: Readonly<Record<string, string>> = {
  space: 'Space',
  enter: 'Enter',
  escape: 'Esc',
  delete: 'Delete',
  insert: 'Insert',
  up: '↑',
  down: '↓',
  left: '←',
  right: '→',
  tab: 'Tab',
  home: 'Home',
  end: 'End',
  pageup: 'Page up',
  pagedown: 'Page down',
  shift: 'Shift',
  alt: 'Alt',
  mod: 'Ctrl',
};
const SIGN_OF = new Map([...SIGNS].map(([sign, name]) => [name, sign]));

/** What stands on the key of a letter: the letter, or where none is typed by it what the keyboard has in its place. */
function onKey(letter: string, layout: Layout): string {
  if (![...layout.values()].some(isLetter)) {
    const there = layout.get(`Key${letter.toUpperCase()}`);
    if (there) return there.toUpperCase();
  }
  return letter.toUpperCase();
}

/** Keys for reading, as a keyboard has them: `Ctrl+Shift+Z`. */
export const printKeys = (keys: string, layout: Layout = NO_LAYOUT): string =>
  keys
    .split('+')
    .map((key) => WORDS[key] ?? SIGN_OF.get(key) ?? (isLetter(key) ? onKey(key, layout) : key.toUpperCase()))
    .join('+');
