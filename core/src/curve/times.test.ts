import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Times } from './times.js';

const time = fc.integer({ min: 0, max: 40 }).map((n) => n / 8);

test('times come out in order and each once, however they were added, and as often as they are asked for', () => {
  const run = fc.array(time, { maxLength: 90 }).map((all) => Float64Array.from(all).sort());
  fc.assert(
    fc.property(fc.array(fc.oneof(time, run), { maxLength: 12 }), (added) => {
      const times = new Times();
      for (const one of added)
        if (typeof one === 'number') times.add(one);
        else times.addRun(one);
      const all = added.flatMap((one) => (typeof one === 'number' ? [one] : [...one]));
      expect(times.length).toBe(all.length);
      const wanted = [...new Set(all)].sort((a, b) => a - b);
      expect([...times.rising()]).toEqual(wanted);
      expect([...times.rising()]).toEqual(wanted);
    }),
    { numRuns: 300 },
  );
});
