import { test } from '@jest/globals';
import { MINUTE, MINUTES, leavesNothing } from '../test/garbage.js';

test('blocks through every effect, its parameters ridden, leave nothing to be collected in the audio thread', () =>
  leavesNothing((MINUTES / 4) * MINUTE, true));
