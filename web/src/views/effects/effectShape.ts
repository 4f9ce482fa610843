import type { EffectSettings } from '@sure-hand/core/effects';
import { clamp, type Seconds } from '@sure-hand/core/units';

/** A place in the picture of an effect, 0 … 1 from the left and from the foot. */
export type Place = { readonly x: number; readonly y: number };

/** What an effect is set to at a moment: its parameters as its caps stand, and as they are heard, sways on them. */
export type EffectNow = {
  readonly value: (param: string) => number;
  readonly heard: (param: string) => number;
  readonly settings: EffectSettings;
  readonly sampleRate: number;
  /** How long a quarter note is at the line. */
  readonly quarter: Seconds;
};

/** One way that a cap goes: the parameter that goes with it, and how its values lie along the picture. */
export type Axis = {
  readonly param: string;
  /** Where a value lies, 0 … 1. */
  readonly of: (value: number) => number;
  /** The value that lies at a place: the reverse. */
  readonly to: (at: number) => number;
};

/** A cap of the picture: what it moves across and up, and by a second finger or with Alt. */
export type EffectHandle = {
  readonly name: string;
  readonly across: Axis | null;
  readonly up: Axis | null;
  readonly third: string | null;
  /** Where it stands. */
  readonly place: (now: EffectNow) => Place;
};

/** A line of the grid, and its words. */
export type GridMark = { readonly at: number; readonly label: string; readonly isMain?: boolean };

/** The picture of an effect: what can be taken hold of, and what is drawn. */
export type EffectShape = {
  readonly handles: readonly EffectHandle[];
  /** What is drawn as lines, the strong one first. */
  readonly lines: (now: EffectNow) => readonly (readonly Place[])[];
  /** What stands as bars from the foot: repeats. */
  readonly bars?: (now: EffectNow) => readonly Place[];
  readonly across: (now: EffectNow) => readonly GridMark[];
  readonly up: readonly GridMark[];
  /** What it says of itself, under its name. */
  readonly says: string;
};

/** An axis whose values lie evenly between two. */
export const evenAxis = (param: string, min: number, max: number): Axis => ({
  param,
  of: (value) => (value - min) / (max - min),
  to: (at) => min + at * (max - min),
});

/** An axis whose values lie by their logarithm between two. */
export const logAxis = (param: string, min: number, max: number): Axis => ({
  param,
  of: (value) => Math.log(Math.max(value, 1e-9) / min) / Math.log(max / min),
  to: (at) => min * (max / min) ** at,
});

/** So many places of a line, evenly from left to right. */
export const along = (steps: number, y: (x: number) => number): Place[] =>
  Array.from({ length: steps + 1 }, (_, i) => ({ x: i / steps, y: clamp(y(i / steps), -0.05, 1.05) }));

/** Marks of frequencies on an axis of them. */
export const hertzMarks = ({ of }: Axis): readonly GridMark[] =>
  [50, 100, 200, 500, 1000, 2000, 5000, 10_000].map((hz) => ({
    at: of(hz),
    label: hz < 1000 ? String(hz) : `${hz / 1000}k`,
    isMain: hz === 1000,
  }));
