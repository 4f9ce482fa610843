import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { LEVEL_LAW, valueOf } from '../units/index.js';
import { Curve } from './curve.js';
import { SHAPES, linePoint, type Point, type Range } from './point.js';
import { splice } from './splice.js';
import { SplicedInOrder } from './splicedInOrder.js';

const share = fc.double({ min: 0.01, max: 1, noNaN: true });
/** Points at whole times, with steps: dense, so that ranges begin and end on them, between them, and next to each other. */
const curves = fc
  .array(fc.record({ t: fc.nat(60), x: share, shape: fc.constantFrom(...SHAPES), bend: fc.constantFrom(-1, 0, 0.4) }), {
    maxLength: 60,
  })
  .map((drawn) => {
    const all = [...drawn].sort((a, b) => a.t - b.t).map(({ x, ...p }): Point => ({ ...p, v: valueOf(LEVEL_LAW, x) }));
    return Curve.of(all.filter((p, i) => all[i - 1]?.t !== p.t || all[i - 2]?.t !== p.t));
  });
/** Ranges one after the other, with what is to stand in each. */
const pieces = fc
  .array(
    fc.record({ gap: fc.constantFrom(0.5, 1, 1, 2, 5), long: fc.constantFrom(0.5, 1, 3, 7), x: share, y: share }),
    {
      maxLength: 14,
    },
  )
  .map((drawn) => {
    let t = -0.5;
    return drawn.map(({ gap, long, x, y }): { range: Range; inside: Curve } => {
      const a = (t += gap);
      const b = (t += long);
      const [v, w] = [valueOf(LEVEL_LAW, x), valueOf(LEVEL_LAW, y)];
      return { range: [a, b], inside: Curve.of([linePoint(a, v), linePoint((a + b) / 2, w), linePoint(b, v)]) };
    });
  });

test('ranges spliced in order are what splicing the whole curve for each of them makes, to the bit', () => {
  fc.assert(
    fc.property(curves, pieces, (points, all) => {
      const quick = new SplicedInOrder({ points, law: LEVEL_LAW, rest: -6 });
      let slow = points;
      all.forEach(({ range, inside }, i) => {
        quick.splice(range, inside, i === 0);
        slow = splice(slow, LEVEL_LAW, -6, range, inside);
        if (i === 0 && slow.t[0] === 0 && slow.t[1] === 0) slow = slow.slice(1);
        expect(quick.make().toJSON()).toEqual(slow.toJSON());
      });
    }),
    { numRuns: 600 },
  );
});
