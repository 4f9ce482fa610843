/** A length that moves while it sounds goes on by at most so much of a frame each frame: it bends the pitch as a tape does. */
const FASTEST = 0.5;

/** Takes the number at a place of a list a frame's way further to where it is going, and no faster than a tape. */
export function glideInPlace(numbers: Float64Array, at: number, target: Float64Array, of: number): void {
  const way = target[of]! - numbers[at]!;
  numbers[at] = numbers[at]! + (way > FASTEST ? FASTEST : way < -FASTEST ? -FASTEST : way);
}
