import type { NumberInputProps } from '@mantine/core';
import { clamp, readNumber } from '@sure-hand/core/units';

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
  if (read === null || !Number.isFinite(read)) return `“${typed}” is no number. Type one, ${min} … ${max}.`;
  return read === clamp(read, min, max) ? null : `${typed} is outside ${min} … ${max}.`;
}

/** What every field of numbers has: a comma is as good as a point. */
export const NUMBER_FIELD: Pick<NumberInputProps, 'size' | 'allowedDecimalSeparators'> = {
  size: 'xs',
  allowedDecimalSeparators: [',', '.'],
};
