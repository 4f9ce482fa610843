/**
 * Places in the numbers that a reader leaves behind. In the audio thread a number that a call takes or gives back is a new thing
 * in memory wherever the call is not taken apart, so they go by way of a list that is there already.
 */
export const FOUND = {
  /** Where the control stands on its throw. */
  travel: 0,
  /** Its gain as a level. */
  gain: 1,
  /** When it is looked for, in seconds. */
  at: 2,
  /** The gain of its trim. */
  trim: 3,
  /** The value of a control with a range of its own, its trim included. */
  value: 4,
  /** Where its sway is, −1 … 1. */
  sway: 5,
  /** A frame earlier, in seconds. */
  before: 6,
  /** The next frame that a point stands on. */
  next: 7,
  length: 8,
} as const;

/** Where a control that was read is, where it is not after a point of its curve: before the first; on a bend, or moved by more; at rest. */
export const STRETCH = { first: -1, other: -2, rest: -3 } as const;

/** The frame of what never comes. */
export const NEVER = Infinity;
