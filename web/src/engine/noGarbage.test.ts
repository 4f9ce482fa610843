import { test } from '@jest/globals';
import { MINUTE, MINUTES, leavesNothing } from '../test/garbage.js';

test('minutes of blocks that are ridden and go round a loop leave nothing to be collected in the audio thread', () =>
  leavesNothing(MINUTES * MINUTE, false));
