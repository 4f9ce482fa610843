type Samples = Float32Array | Float64Array;

/**
 * Copies the first `count` frames of a buffer into another, from `at` on. Where that is not all of both, not by a view on part
 * of it: that would be a new thing in memory with every block.
 */
export function copyFrames(to: Samples, from: Samples, count: number, at = 0): void {
  if (at === 0 && count === from.length && count <= to.length) to.set(from);
  else for (let i = 0; i < count; i++) to[at + i] = from[i]!;
}
