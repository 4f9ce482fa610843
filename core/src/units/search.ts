/** Numbers in rising order: the index of the last of them that is not after `at`, −1 where all are; of equal ones the later. */
export function lastNotAfter(rising: ArrayLike<number>, at: number): number {
  let low = -1;
  let high = rising.length;
  while (high - low > 1) {
    const mid = (low + high) >> 1;
    if (rising[mid]! <= at) low = mid;
    else high = mid;
  }
  return low;
}

/** {@link lastNotAfter} of things that stand in the order of a key. */
export function lastKeyedNotAfter<T>(things: readonly T[], keyOf: (thing: T) => number, at: number): number {
  let low = -1;
  let high = things.length;
  while (high - low > 1) {
    const mid = (low + high) >> 1;
    if (keyOf(things[mid]!) <= at) low = mid;
    else high = mid;
  }
  return low;
}
