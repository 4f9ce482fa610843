import { test } from '@jest/globals';
import { leavesNothing } from '../test/garbage.js';

test('block after block that is ridden and goes round a loop leaves nothing to be collected in the audio thread', () =>
  leavesNothing(false));
