import { expect, test } from '@jest/globals';
import type { Job } from '@sure-hand/server';
import { JobEnds } from './jobEnds.js';
import { merged } from './jobs.js';

const job = (id: string, state: Job['state']): Job => ({ id, state }) as Job;

test('the end of what was begun here is news in whatever order it is known, once; what had ended before is none', () => {
  const list = (ends: JobEnds): void => ends.listed([job('of yesterday', 'failed'), job('mine', 'failed')]);
  const begun = (ends: JobEnds): void => ends.met(job('mine', 'working'));
  for (const inOrder of [[list, begun], [begun, list], [begun]]) {
    const ends = new JobEnds();
    for (const fact of inOrder) fact(ends);
    expect(ends.isNews(job('mine', 'working'))).toBe(false);
    expect(ends.isNews(job('mine', 'failed'))).toBe(true);
    expect(ends.isNews(job('of yesterday', 'failed'))).toBe(false);
    ends.told(job('mine', 'failed'));
    expect(ends.isNews(job('mine', 'failed'))).toBe(false);
  }
  const other = new JobEnds();
  other.listed([job('of another page', 'working')]);
  expect(other.isNews(job('of another page', 'done'))).toBe(true);
});

test('a list has the end of what was begun here, where nobody could tell of it; what is told ended stays so', () => {
  const begun = new Map([['mine', job('mine', 'working')]]);
  expect(merged(begun, [job('mine', 'failed')], begun).get('mine')?.state).toBe('failed');
  expect(merged(new Map([['mine', job('mine', 'done')]]), [job('mine', 'working')], begun).get('mine')?.state).toBe(
    'done',
  );
  expect(merged(begun, [], begun).get('mine')).toMatchObject({
    state: 'failed',
    sentence: expect.stringContaining('started anew'),
  });
  expect(merged(begun, [], new Map()).get('mine')?.state).toBe('working');
});
