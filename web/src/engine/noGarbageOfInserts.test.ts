import { test } from '@jest/globals';
import { MINUTE, leavesNothing } from '../test/garbage.js';

test('a minute of blocks through every effect, its parameters ridden, leaves nothing to be collected in the audio thread', () =>
  leavesNothing(MINUTE, true));
