import { test } from '@jest/globals';
import { leavesNothing } from '../test/garbage.js';

test('block after block through every effect, its parameters ridden, leaves nothing to be collected in the audio thread', () =>
  leavesNothing(true));
