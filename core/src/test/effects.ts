import { EFFECTS, defaultsOf, GRID_FRAMES, type EffectKernel, type EffectSettings } from '../effects/index.js';

export const RATE = 48_000;
/** Parameters of an effect by their keys; those that are not said rest. */
export type Values = { readonly [key: string]: number };

/** An effect with its parameters over time, and what goes in. */
export type Run = {
  readonly settings?: EffectSettings;
  readonly left: Float32Array;
  readonly right?: Float32Array;
  readonly sides?: 1 | 2;
  /** At a frame of the grid. */
  readonly values?: (frame: number) => Values;
  /** Frames at a time; the grid's, where nothing is said. */
  readonly block?: number;
  readonly begun?: (kernel: EffectKernel) => void;
};

/** Sends sound through an effect as the mix does: parameters read on the grid, blocks of any length. */
export function through(
  name: string,
  { settings = {}, left, right, sides = 2, values = () => ({}), block = GRID_FRAMES, begun }: Run,
): {
  readonly left: Float32Array;
  readonly right: Float32Array;
} {
  const effect = EFFECTS.get(name)!;
  const whole = { ...defaultsOf(effect), ...settings };
  const params = effect.params(whole);
  const kernel = effect.kernel({ sampleRate: RATE, sides, settings: whole });
  const put = (frame: number): boolean => {
    const now = values(frame);
    for (const key of Object.keys(now))
      if (!params.some((one) => one.key === key)) throw new Error(`${name} has no ${key}`);
    let isOther = false;
    params.forEach(({ key, rest }, i) => {
      const v = now[key] ?? rest;
      if (kernel.values[i] !== v) isOther = true;
      kernel.values[i] = v;
    });
    return isOther;
  };
  put(0);
  kernel.begin();
  kernel.clear();
  begun?.(kernel);
  const out = { left: left.slice(), right: (right ?? left).slice() };
  for (let frame = 0; frame < left.length;) {
    const done = frame % GRID_FRAMES;
    if (done === 0) kernel.turn(GRID_FRAMES, put(frame + GRID_FRAMES));
    const count = Math.min(block, GRID_FRAMES - done, left.length - frame);
    kernel.process(out.left, out.right, frame, count, done);
    frame += count;
  }
  return out;
}

export const frames = (sec: number): number => Math.round(sec * RATE);
export const silence = (sec: number): Float32Array => new Float32Array(frames(sec));
export const impulse = (sec: number): Float32Array => {
  const sound = silence(sec);
  sound[0] = 1;
  return sound;
};
/** A sine from its zero, rising. */
export const sine = (hz: number, sec: number, peak = 1): Float32Array =>
  Float32Array.from({ length: frames(sec) }, (_, n) => peak * Math.sin((2 * Math.PI * hz * n) / RATE));

/** How loud a sound is at a frequency, in dB: the magnitude of its transform there. */
export function magnitudeDb(sound: ArrayLike<number>, hz: number): number {
  const turn = (2 * Math.PI * hz) / RATE;
  const [stepCos, stepSin] = [Math.cos(turn), Math.sin(turn)];
  let [cos, sin, re, im] = [1, 0, 0, 0];
  for (let n = 0; n < sound.length; n++) {
    const x = sound[n]!;
    re += x * cos;
    im -= x * sin;
    const turned = cos * stepCos - sin * stepSin;
    sin = sin * stepCos + cos * stepSin;
    cos = turned;
  }
  return 20 * Math.log10(Math.sqrt(re * re + im * im));
}

/** The largest step between neighbouring samples. */
export function largestStep(sound: ArrayLike<number>, from = 1): number {
  let most = 0;
  for (let n = Math.max(1, from); n < sound.length; n++) most = Math.max(most, Math.abs(sound[n]! - sound[n - 1]!));
  return most;
}
