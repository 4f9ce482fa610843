import { Curve, holdPoint, linePoint } from '../curve/index.js';
import { controlOf, controlsOf, isSwitch, type ControlId, type Layer, type Song } from '../song/index.js';
import { layerLaw } from '../song/index.js';
import { valueOf } from '../units/index.js';

/** One of a list, by a number of 0 … 1. */
export const pick = <T>(list: readonly T[], x: number): T => list[Math.floor(x * list.length)]!;

/** One of a song's controls, by a number of 0 … 1. */
export const anyControl = (song: Song, x: number): ControlId => pick([...controlsOf(song).keys()], x);

/** A value of a layer of a control, by a number of 0 … 1. */
export function anyValue(song: Song, id: ControlId, x: number, layer: Layer = 'base'): number {
  return isSwitch(controlOf(song, id)) ? Math.round(x) : valueOf(layerLaw(song, id, layer), x);
}

/** Points of a layer of a control, one every four seconds or so. */
export const anyPoints = (song: Song, id: ControlId, draw: readonly number[], layer: Layer = 'base'): Curve =>
  Curve.of(
    draw.map((x, i) => {
      const make = isSwitch(controlOf(song, id)) ? holdPoint : linePoint;
      return make(4 * i + x, anyValue(song, id, x, layer));
    }),
  );
