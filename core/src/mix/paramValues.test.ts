import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { SHAPES } from '../curve/index.js';
import { EFFECTS, defaultsOf } from '../effects/index.js';
import { insertWithDefaults } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { valueOf } from '../units/index.js';
import { ControlReader } from './controlReader.js';
import { FOUND } from './found.js';
import { HandTable } from './hands.js';
import { ParamValues } from './paramValues.js';
import { mixPlan } from './plan.js';
import { runs } from '../test/runs.js';

const LENGTH = 4;
const SETTINGS = defaultsOf(EFFECTS.get('equaliser')!);
const PARAMS = EFFECTS.get('equaliser')!.params({});
const ID = (key: string): string => `voice/insert/eq/${key}`;
/** Spread evenly, as doubles drawn by their bits are not. */
const thousandths = (most: number) => fc.nat(1000 * most).map((n) => n / 1000);
const point = fc.record({
  t: thousandths(LENGTH),
  x: thousandths(1),
  shape: fc.constantFrom(...SHAPES),
});
const lane = fc.record({
  points: fc.array(point, { maxLength: 6 }),
  swing: fc.constantFrom(null, null, null, { wave: 'sine', hz: 3, depth: 0.1 }),
  trim: fc.constantFrom([], [], [{ t: 1, v: -3, shape: 'line' }]),
});

type Lane = typeof lane extends fc.Arbitrary<infer T> ? T : never;

/** The parameters of an equaliser whose curves are these. */
function planOf(lanes: readonly Lane[]) {
  const song = testSong({
    length: LENGTH,
    channels: [
      {
        key: 'voice',
        kind: 'track',
        name: 'Voice',
        inserts: [insertWithDefaults({ slot: 'eq', effect: 'equaliser' })],
      },
    ],
    lanes: Object.fromEntries(
      lanes.map(({ points, swing, trim }, i) => {
        const { key, scale } = PARAMS[i]!;
        const inTurn = points.map(({ x, ...of }) => ({ ...of, v: valueOf(scale.law, x) })).sort((a, b) => a.t - b.t);
        // No more than two may be at one time.
        const sorted = inTurn.filter(({ t }, at) => t !== inTurn[at - 2]?.t);
        return [
          ID(key),
          { points: sorted, ...(swing ? { sway: swing } : {}), ...(key.startsWith('gain') ? { trim } : {}) },
        ];
      }),
    ) as never,
  });
  const { controls } = mixPlan(song);
  return { controls, slots: PARAMS.map(({ key }) => controls.findIndex(({ id }) => id === ID(key))) };
}

test('parameters read all at once are what each is by its own reader, to the last bit, forwards, after jumps, and with hands that come and go', () => {
  const ask = fc.record({
    frame: fc.oneof(fc.constant(null), fc.nat(48_000 * LENGTH)),
    hand: fc.option(fc.record({ param: fc.nat(11), x: thousandths(1) })),
  });
  const kernel = EFFECTS.get('equaliser')!.kernel({ sampleRate: 48_000, sides: 1, settings: SETTINGS });
  expect(kernel.straight).not.toBeNull();
  const lanesOf = fc.array(lane, { minLength: 12, maxLength: 12 });
  fc.assert(
    fc.property(lanesOf, fc.array(ask, { minLength: 1, maxLength: 40 }), (lanes, asks) => {
      const { controls, slots } = planOf(lanes);
      const readers = (): ControlReader[] => slots.map((slot) => new ControlReader(controls, slot, 48_000));
      const own = readers();
      // One by one in plain numbers, and all at once by the machine's own code.
      const plain = { values: new Float64Array(12), straight: null, readStraight: () => false };
      const all = [plain, kernel].map((of) => new ParamValues(readers(), 48_000, of));
      const hands = new HandTable(new ArrayBuffer(HandTable.bytes(controls.length)), controls.length);
      let frame = 0;
      for (const { frame: jump, hand } of asks) {
        frame = jump ?? frame + 64;
        if (hand) hands.hold(slots[hand.param]!, false, hand.x);
        for (const reader of own) reader.readOwnValue(frame, hand ? hands : null);
        const wanted = own.map(({ found }) => found[FOUND.value]);
        for (const read of all) {
          const { values } = read.kernel;
          expect(read.heed(hands)).toBe(hand !== null);
          const before = values.slice();
          const isOther = read.read(frame, hand ? hands : null, -1);
          expect([...values]).toEqual(wanted);
          expect(isOther).toBe(before.some((value, i) => value !== values[i]));
        }
        if (hand) hands.letGo(slots[hand.param]!);
      }
    }),
    { numRuns: runs(100) },
  );
});
