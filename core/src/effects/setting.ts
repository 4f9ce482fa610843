/** A choice of an effect that is not automated. */
export type Setting = {
  readonly rest: unknown;
  readonly fits: (value: unknown) => boolean;
  /** What it takes, in words. */
  readonly takes: string;
};

/** One of some words or numbers. */
export const oneOf = (values: readonly (string | number)[], rest: string | number): Setting => ({
  rest,
  fits: (value) => values.some((one) => one === value),
  takes: `one of ${values.join(', ')}`,
});

/** As many of some words as are its default. */
export const listOf = (values: readonly string[], rest: readonly string[]): Setting => ({
  rest,
  fits: (value) =>
    Array.isArray(value) && value.length === rest.length && value.every((one) => values.some((word) => word === one)),
  takes: `${rest.length} of ${values.join(', ')}`,
});

/** A number above 0 and up to the most, or null. */
export const numberOrNull = (most: number): Setting => ({
  rest: null,
  fits: (value) => value === null || (typeof value === 'number' && value > 0 && value <= most),
  takes: `null or a number above 0 and up to ${most}`,
});

/** A channel's key, or null. */
export const keyOrNull: Setting = {
  rest: null,
  fits: (value) => value === null || (typeof value === 'string' && value.length > 0 && value.length <= 64),
  takes: 'null or the key of a channel',
};
