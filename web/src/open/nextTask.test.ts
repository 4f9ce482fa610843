import { expect, test } from '@jest/globals';
import { NextTask } from './nextTask.js';

test('what is told of a pass comes in the task after, in order, and before whatever asks for it', async () => {
  const said: string[] = [];
  const next = new NextTask();
  next.do(() => said.push('receipt'));
  next.do(() => said.push('change'));
  expect(said).toEqual([]);
  await Promise.resolve();
  expect(said).toEqual([]);
  await new Promise((done) => setImmediate(done));
  await new Promise((done) => setImmediate(done));
  expect(said).toEqual(['receipt', 'change']);
  next.do(() => said.push('lap'));
  expect(next.waits).toBe(true);
  next.flush();
  expect(next.waits).toBe(false);
  next.do(() => said.push('the song is left'));
  next.close();
  expect(said).toEqual(['receipt', 'change', 'lap', 'the song is left']);
});
