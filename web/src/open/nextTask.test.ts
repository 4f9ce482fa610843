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
  next.do(() => {
    throw new Error('a listener’s own');
  });
  next.do(() => said.push('the receipt after it'));
  expect(() => next.flush()).toThrow('a listener’s own');
  await new Promise((done) => setImmediate(done));
  await new Promise((done) => setImmediate(done));
  next.do(() => {
    throw new Error('another’s');
  });
  next.do(() => said.push('the song is left'));
  expect(() => next.close()).toThrow('another’s');
  expect(said).toEqual(['receipt', 'change', 'lap', 'the receipt after it', 'the song is left']);
});
