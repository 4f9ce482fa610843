import type { AfterWrite, FoldTrim, Settings } from './document.js';

/** What settings were called before: trim was folded at stop, as it went off, or when asked; a write pass went on in any mode. */
const FOLD_BEFORE: Readonly<Record<string, FoldTrim>> = { stop: 'pass', off: 'hand', ask: 'hand' };
const AFTER_BEFORE: Readonly<Record<string, AfterWrite>> = { read: 'touch', latch: 'touch' };

const renamed = <T>(names: Readonly<Record<string, T>>, value: unknown): unknown =>
  typeof value === 'string' && Object.hasOwn(names, value) ? names[value] : value;

/** Settings that an earlier version of this program kept, as they are called now; all others as they stand. */
export function turnedOver<T extends Partial<Settings>>(settings: T): T {
  const { foldTrim, afterWrite } = settings as { foldTrim?: unknown; afterWrite?: unknown };
  const changes = {
    ...(foldTrim === undefined ? {} : { foldTrim: renamed(FOLD_BEFORE, foldTrim) }),
    ...(afterWrite === undefined ? {} : { afterWrite: renamed(AFTER_BEFORE, afterWrite) }),
  };
  return { ...settings, ...changes };
}
