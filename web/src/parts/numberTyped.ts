import type { NumberInputProps } from '@mantine/core';
import { clamp, quoted, readNumber } from '@sure-hand/core/units';

/** Between what a number stands. */
export type Bounds = { readonly min: number; readonly max: number };

/**
 * The one reading of a field of numbers: what stands in it as a number between its bounds; null while it is none, as nothing, "-" and "."
 * are. Fields give numbers or what was typed, as their package has it.
 */
export function numberTyped(typed: string | number, { min, max }: Bounds): number | null {
  const read = typeof typed === 'string' ? readNumber(typed) : typed;
  return read === null || !Number.isFinite(read) ? null : clamp(read, min, max);
}

/** The sentence for what is typed into a field where it can't be kept: it is no number, or outside the field's bounds; null where it can. */
export function numberWrong(typed: string | number, { min, max }: Bounds): string | null {
  const read = typeof typed === 'string' ? readNumber(typed) : typed;
  if (read === null || !Number.isFinite(read)) return `${quoted(typed)} is no number. Type one, ${min} … ${max}.`;
  return read === clamp(read, min, max) ? null : `${typed} is outside ${min} … ${max}.`;
}

/** The longest text that is read as one number with its unit. */
const MOST_PASTED = 24;

/**
 * The sentence for what is pasted into a field of numbers where it is not one number, perhaps with its unit: out of a text the field would
 * pick the figures, and make of them a number that nobody meant. Null where it is one.
 */
export function pasteWrong(text: string, { min, max }: Bounds): string | null {
  const one = text.trim();
  if (readNumber(one) !== null) return null;
  if (one.length <= MOST_PASTED && one.match(/\d+(?:[.,]\d+)?/g)?.length === 1) return null;
  return `${quoted(one)} is not one number. Type one, ${min} … ${max}.`;
}

/** What every field of numbers has: a comma is as good as a point. */
export const NUMBER_FIELD: Pick<NumberInputProps, 'size' | 'allowedDecimalSeparators'> = {
  size: 'xs',
  allowedDecimalSeparators: [',', '.'],
};
