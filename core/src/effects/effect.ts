import type { ValueScale } from '../units/index.js';
import type { EffectKernel } from './kernel.js';
import type { Response } from './magnitude.js';
import type { Setting } from './setting.js';

/** A parameter of an effect, as a control of the channel that it is inserted in: what it is called there and rests at. */
export type EffectParam = {
  readonly key: string;
  readonly name: string;
  readonly scale: ValueScale;
  readonly rest: number;
};

/** What a parameter comes to in a song, at least and at most, and whether it moves. */
export type ParamReach = { readonly least: number; readonly most: number; readonly isMoving: boolean };

/** Choices of an effect that are not automated, whole. */
export type EffectSettings = { readonly [name: string]: unknown };

/** Where an effect's sound is made: how fast, for how many sides, by which choices. */
export type KernelOf = { readonly sampleRate: number; readonly sides: 1 | 2; readonly settings: EffectSettings };

/** An effect that can be inserted in a channel: every parameter of it is a control (page 8). */
export type Effect = {
  readonly name: string;
  /** Its parameters in their order; by its settings, since where one rests may go by them. */
  readonly params: (settings: EffectSettings) => readonly EffectParam[];
  /** What its settings may be, and are where nothing is said. */
  readonly settings: { readonly [name: string]: Setting };
  /** Its two sides differ even where it is given the same on both. */
  readonly makesStereo: boolean;
  /** What it adds rings on by itself, and is no part of what is dry. */
  readonly rings: boolean;
  /**
   * So long after its input ends it may still sound, until that is 160 dB down, by what its parameters come to, in their order, with nobody's
   * hand on them; null: there is no telling.
   */
  readonly tailSec: (reach: readonly ParamReach[], settings: EffectSettings) => number | null;
  /** The parameter, by its place, that is summed from the song's start. */
  readonly summed?: number;
  /** The setting that names a channel which it listens to in place of its own input. */
  readonly keySetting?: string;
  /** What its settings put in the place of a parameter, at a tempo; null: nothing. */
  readonly byTempo?: {
    readonly param: number;
    readonly value: (settings: EffectSettings, bpm: number) => number | null;
  };
  /** What it does to each frequency at steady values of its parameters, in their order; absent where that says little of it. */
  readonly response?: (values: ArrayLike<number>, settings: EffectSettings, sampleRate: number) => Response;
  readonly kernel: (of: KernelOf) => EffectKernel;
};
