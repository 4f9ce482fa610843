import { Curve, holdPoint, linePoint, type Range } from '../curve/index.js';
import {
  controlOf,
  controlsOf,
  isInDb,
  isSwitch,
  laneOf,
  layerLaw,
  layerPoints,
  type ControlId,
  type Layer,
  type Song,
} from '../song/index.js';
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

/** A range of a song's first forty seconds, by two numbers of 0 … 1. */
export const anyRange = (x: number, y: number): Range => [20 * x, 20 * x + 0.5 + 20 * y];

/** Values of some controls, by numbers of 0 … 1. */
export const anyValues = (song: Song, which: readonly number[], xs: readonly number[]): { [id: ControlId]: number } =>
  Object.fromEntries(
    which.map((x, i) => {
      const id = anyControl(song, x);
      return [id, anyValue(song, id, xs[i]!)];
    }),
  );

/** What is placed, by four numbers of 0 … 1: one of the song's snapshots, or values of two controls. */
export const anyPlaced = (
  song: Song,
  [a, b, c, d]: readonly number[],
): { values: { [id: ControlId]: number } } | { snapshot: string } =>
  song.snapshots.length && c! < 0.4
    ? { snapshot: pick(song.snapshots, a!).key }
    : { values: anyValues(song, [a!, b!], [c!, d!]) };

/** Which points of two lanes an act is about, by six numbers of 0 … 1; none of them a switch. */
export function anyPicking(
  song: Song,
  [a, b, c, d, e, f]: readonly number[],
): {
  controls: ControlId[];
  range?: Range;
  points?: { [id: ControlId]: number[] };
  layer: Layer;
} {
  const even = [...controlsOf(song).keys()].filter((id) => !isSwitch(controlOf(song, id)));
  const controls = [...new Set([pick(even, a!), pick(even, b!)])];
  const layer = f! < 0.2 && controls.every((id) => isInDb(controlOf(song, id))) ? 'trim' : 'base';
  if (c! < 0.2) return { controls, layer };
  if (c! < 0.7) return { controls, range: anyRange(d!, e!), layer };
  const times = (id: ControlId): number[] =>
    [...layerPoints(laneOf(song, id), layer).t].filter((t) => (t * 0.37 + d!) % 1 < e!);
  return { controls, points: Object.fromEntries(controls.map((id) => [id, times(id)])), layer };
}
