import fc from 'fast-check';

/** A place in the window, as parts of its width and height, or one of the things that can be worked there, as a part of their number. */
export type Place = { readonly x: number; readonly y: number } | { readonly thing: number };
export type Modifier = 'Shift' | 'Alt' | 'Control';

/** What a hand that knows nothing does at a page. */
export type MonkeyAct =
  | { readonly do: 'key'; readonly key: string; readonly repeats: number }
  | {
      readonly do: 'click';
      readonly at: Place;
      readonly button: 'left' | 'right' | 'middle';
      readonly clicks: 1 | 2;
      readonly held: readonly Modifier[];
    }
  | {
      readonly do: 'drag';
      readonly from: Place;
      readonly by: { readonly x: number; readonly y: number };
      readonly steps: number;
      readonly held: readonly Modifier[];
      readonly amid: 'nothing' | 'Escape' | 'right button' | 'a key';
    }
  | { readonly do: 'ride'; readonly row: number; readonly up: number; readonly steps: number }
  | { readonly do: 'type'; readonly text: string; readonly then: 'Enter' | 'Tab' | 'Escape' | 'nothing' }
  | {
      readonly do: 'wheel';
      readonly at: Place;
      readonly by: { readonly x: number; readonly y: number };
      readonly held: readonly Modifier[];
    }
  | { readonly do: 'view'; readonly view: number }
  | { readonly do: 'elsewhere'; readonly act: 'undo' | 'redo' | 'solo' | 'value' }
  | { readonly do: 'leave' }
  | { readonly do: 'reload' };

const part = fc.integer({ min: 0, max: 999 }).map((n) => n / 1000);
const place: fc.Arbitrary<Place> = fc.oneof(
  { weight: 2, arbitrary: fc.record({ x: part, y: part }) },
  { weight: 3, arbitrary: fc.record({ thing: part }) },
);
const held = fc.oneof(
  { weight: 4, arbitrary: fc.constant<Modifier[]>([]) },
  { weight: 1, arbitrary: fc.subarray<Modifier>(['Shift', 'Alt', 'Control']) },
);

const letters = 'abcdefghijklmnopqrstuvwxyz'.split('');
const signs = ['.', ',', '/', '?', '+', '[', ']', '{', '}', '<', '>', '-', '='];
const named = ['Enter', 'Escape', 'Tab', 'Delete', 'Backspace', 'Insert', 'ArrowUp', 'ArrowDown', 'ArrowLeft'];
const plain = [...letters, ...'0123456789'.split(''), ...signs, ...named, 'ArrowRight', 'Home', 'End', 'PageDown'];
// Of those with Ctrl only the song's: the others belong to the browser.
const withControl = [
  'z',
  'z',
  'z',
  'Shift+Z',
  'Shift+Z',
  'c',
  'x',
  'v',
  'Shift+V',
  'a',
  'Shift+A',
  'd',
  'ArrowUp',
  'ArrowDown',
  'Shift+ArrowUp',
  'Shift+ArrowDown',
];
const key = fc.oneof(
  { weight: 5, arbitrary: fc.constantFrom(...plain) },
  { weight: 2, arbitrary: fc.constantFrom(...plain).map((name) => `Shift+${name}`) },
  { weight: 2, arbitrary: fc.constantFrom(...plain).map((name) => `Alt+${name}`) },
  { weight: 1, arbitrary: fc.constantFrom(...plain).map((name) => `Alt+Shift+${name}`) },
  { weight: 2, arbitrary: fc.constantFrom(...withControl).map((name) => `Control+${name}`) },
  // What makes a song roll, write and go round comes more often than by chance.
  { weight: 3, arbitrary: fc.constant('Space') },
  { weight: 2, arbitrary: fc.constantFrom('l', 'i', 'o', 'Alt+3', 'Alt+4', 'Alt+5', 'Escape', 'Escape') },
);
const keyAct = fc.record({
  do: fc.constant('key' as const),
  key,
  repeats: fc.oneof({ weight: 6, arbitrary: fc.constant(0) }, { weight: 1, arbitrary: fc.integer({ min: 1, max: 8 }) }),
});
const text = fc.constantFrom(
  '-',
  '.',
  '1e400',
  '٣',
  '',
  '0',
  '-6',
  '12.5',
  '1e-9',
  '99999',
  'lead',
  'Softer, here — ',
  '🎚️',
  '  ',
);
const px = fc.integer({ min: -300, max: 300 });

const act: fc.Arbitrary<MonkeyAct> = fc.oneof(
  { weight: 10, arbitrary: keyAct },
  {
    weight: 7,
    arbitrary: fc.record({
      do: fc.constant('click' as const),
      at: place,
      button: fc.constantFrom('left', 'left', 'left', 'left', 'left', 'right', 'middle'),
      clicks: fc.constantFrom(1, 1, 1, 2),
      held,
    }),
  },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('drag' as const),
      from: place,
      by: fc.record({ x: px, y: px }),
      steps: fc.integer({ min: 1, max: 6 }),
      held,
      amid: fc.constantFrom('nothing', 'nothing', 'nothing', 'Escape', 'right button', 'a key'),
    }),
  },
  {
    weight: 4,
    arbitrary: fc.record({
      do: fc.constant('ride' as const),
      row: part,
      up: fc.integer({ min: -120, max: 120 }),
      steps: fc.integer({ min: 3, max: 12 }),
    }),
  },
  {
    weight: 2,
    arbitrary: fc.record({
      do: fc.constant('type' as const),
      text,
      then: fc.constantFrom('Enter', 'Tab', 'Escape', 'nothing'),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('wheel' as const),
      at: place,
      by: fc.record({ x: px, y: px }),
      held,
    }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('view' as const), view: fc.integer({ min: 0, max: 5 }) }) },
  {
    weight: 1,
    arbitrary: fc.record({
      do: fc.constant('elsewhere' as const),
      act: fc.constantFrom('undo', 'redo', 'solo', 'value'),
    }),
  },
);
const rare: fc.Arbitrary<MonkeyAct> = fc.constantFrom({ do: 'leave' }, { do: 'reload' });

/** The acts of a seed: the same ones every time. */
export const actsOf = (seed: number, count: number): MonkeyAct[] =>
  fc.sample(fc.noBias(fc.oneof({ weight: 60, arbitrary: act }, { weight: 1, arbitrary: rare })), {
    seed,
    numRuns: count,
  });
