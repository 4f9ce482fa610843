/** Made once: each takes as long to make as a line to draw. */
const IN_ENGLISH = new Intl.NumberFormat('en');

/** A number with its thousands apart: `1,234`. */
export const printCount = (n: number): string => IN_ENGLISH.format(n);

/** So many of something: `1 pass`, `1,234 passes`. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${printCount(n)} ${n === 1 ? one : many}`;
