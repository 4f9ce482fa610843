/** How a setting is chosen: one of some, one of some for each of its places, a number up to the most or none, a channel or none. */
export type Choice =
  | { readonly how: 'one' | 'each'; readonly of: readonly (string | number)[] }
  | { readonly how: 'number'; readonly most: number }
  | { readonly how: 'channel' };

/** A choice of an effect that is not automated. */
export type Setting = {
  /** What it is called: `Slope`. */
  readonly name: string;
  readonly rest: unknown;
  readonly choice: Choice;
  readonly fits: (value: unknown) => boolean;
  /** What it takes, in words. */
  readonly takes: string;
};

/** One of some words or numbers. */
export const oneOf = (name: string, of: readonly (string | number)[], rest: string | number): Setting => ({
  ...{ name, rest, choice: { how: 'one', of } },
  fits: (value) => of.some((one) => one === value),
  takes: `one of ${of.join(', ')}`,
});

/** As many of some words as are its default. */
export const eachOf = (name: string, of: readonly string[], rest: readonly string[]): Setting => ({
  ...{ name, rest, choice: { how: 'each', of } },
  fits: (value) =>
    Array.isArray(value) && value.length === rest.length && value.every((one) => of.some((word) => word === one)),
  takes: `${rest.length} of ${of.join(', ')}`,
});

/** A number above 0 and up to the most, or null. */
export const numberOrNull = (name: string, most: number): Setting => ({
  ...{ name, rest: null, choice: { how: 'number', most } },
  fits: (value) => value === null || (typeof value === 'number' && value > 0 && value <= most),
  takes: `null or a number above 0 and up to ${most}`,
});

/** A channel's key, or null. */
export const channelOrNull = (name: string): Setting => ({
  ...{ name, rest: null, choice: { how: 'channel' } },
  fits: (value) => value === null || (typeof value === 'string' && value.length > 0 && value.length <= 64),
  takes: 'null or the key of a channel',
});
