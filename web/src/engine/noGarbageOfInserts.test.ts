import { test } from '@jest/globals';
import { TEN_MINUTES, leavesNothing } from '../test/garbage.js';

test(
  'a minute of blocks through every effect, its parameters ridden, leaves nothing to be collected in the audio thread',
  () => leavesNothing(TEN_MINUTES / 10, true),
  180_000,
);
