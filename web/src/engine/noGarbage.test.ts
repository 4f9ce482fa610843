import { test } from '@jest/globals';
import { TEN_MINUTES, leavesNothing } from '../test/garbage.js';

test(
  'ten minutes of blocks that are ridden and go round a loop leave nothing to be collected in the audio thread',
  () => leavesNothing(TEN_MINUTES, false),
  180_000,
);
