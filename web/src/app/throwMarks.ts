import type { Layer, Control } from '@sure-hand/core/song';
import { TRIM_LAW, travelOf, type Law } from '@sure-hand/core/units';

/** A mark beside a throw: where it stands, and its words. */
export type ThrowMark = { readonly travel: number; readonly label: string; readonly isMain: boolean };

const of = (law: Law, marks: readonly (readonly [number, string, boolean?])[]): ThrowMark[] =>
  marks.map(([value, label, isMain = false]) => ({ travel: travelOf(law, value), label, isMain }));

/** The marks beside a control's throw: unity always, silence always −∞. */
export function throwMarks(control: Control, layer: Layer): ThrowMark[] {
  if (layer === 'trim')
    return of(TRIM_LAW, [
      [12, '+12'],
      [6, '+6'],
      [0, '0', true],
      [-6, '−6'],
      [-12, '−12'],
    ]);
  switch (control.display) {
    case 'dB':
      return of(control.law, [
        [12, '+12'],
        [0, '0', true],
        [-15, '−15'],
        [-30, '−30'],
        [-60, '−60'],
        [-144, '−∞'],
      ]);
    case 'pan':
      return of(control.law, [
        [1, 'R'],
        [0.5, ''],
        [0, 'C', true],
        [-0.5, ''],
        [-1, 'L'],
      ]);
    case 'mute':
      return of(control.law, [
        [1, 'muted'],
        [0, 'open', true],
      ]);
    case 'switch':
    case 'number':
      return of(control.law, [
        [1, 'on'],
        [0, 'off', true],
      ]);
  }
}
