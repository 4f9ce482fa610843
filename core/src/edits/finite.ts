import { Curve } from '../curve/index.js';
import { areFinite } from '../units/index.js';

/** Where in something that was made here a number is none, as its path; null where all numbers in it are finite. */
export function whereNotFinite(thing: unknown, path = ''): string | null {
  if (typeof thing === 'number') return Number.isFinite(thing) ? null : path;
  if (typeof thing !== 'object' || thing === null) return null;
  // Of very many points, or their times, no path is made.
  if (Array.isArray(thing) && areFinite(thing)) return null;
  if (thing instanceof Curve) return thing.t.every(Number.isFinite) && thing.v.every(Number.isFinite) ? null : path;
  for (const [key, value] of Object.entries(thing)) {
    const where = whereNotFinite(value, `${path}/${key}`);
    if (where !== null) return where;
  }
  return null;
}
