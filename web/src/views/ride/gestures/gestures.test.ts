import { expect, test } from '@jest/globals';
import { HeldGestures, type Gesture, type PointerAt } from './gesture.js';

const at = (id: number, atMs: number): PointerAt => ({
  id,
  x: 0,
  y: 0,
  rowY: 0,
  row: null,
  onRuler: false,
  isFine: false,
  isFree: false,
  isLocked: false,
  atMs,
  moves: [],
});

test('each pointer keeps what it took hold of, and what it had is let go of however it goes', () => {
  const said: string[] = [];
  let made = 0;
  const held = new HeldGestures([
    { hit: () => null, begin: () => null },
    {
      hit: () => ({ cursor: 'grab', title: 'A cap' }),
      begin(): Gesture {
        const name = `g${++made}`;
        return {
          move: ({ atMs }) => said.push(`${name} moves ${atMs}`),
          end: ({ atMs }) => said.push(`${name} ends ${atMs}`),
          cancel: (atMs) => said.push(`${name} is cancelled ${atMs}`),
          ...(name === 'g2' ? { drop: () => said.push(`${name} is dropped`) } : {}),
        };
      },
    },
  ]);
  held.down(at(1, 10));
  held.down(at(2, 20));
  held.move(at(2, 30));
  held.move(at(1, 31));
  held.drop();
  expect([1, 2].map((id) => held.holds(id))).toEqual([true, false]);
  // The first comes down again, and nobody said that it had come up.
  held.down(at(1, 40));
  held.up(at(1, 50), false);
  held.down(at(3, 60));
  held.down(at(4, 61));
  held.up(at(4, 62), true);
  held.leave(70);
  expect(said).toEqual([
    'g2 moves 30',
    'g1 moves 31',
    'g2 is dropped',
    'g1 is cancelled 40',
    'g3 ends 50',
    'g5 is cancelled 62',
    'g4 is cancelled 70',
  ]);
  expect(held.hover(at(9, 0))).toEqual({ cursor: 'grab', title: 'A cap' });
});
