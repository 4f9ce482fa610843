import { clamp, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { CurveMaker, type Curve } from './curve.js';
import { DRAWN_WITHIN } from './drawnPath.js';
import { holdPoint, type Range } from './point.js';
import { Times } from './times.js';

export const WAVES = ['sine', 'triangle', 'square', 'sawUp', 'sawDown', 'steps'] as const;
/** The course of one cycle. Sine and triangle begin at the centre, rising; saws and squares step; steps are random. */
export type Wave = (typeof WAVES)[number];

/** A shape at a musical rate: see {@link waveOver}. */
export type WaveShape = {
  readonly wave: Wave;
  /** Travel either side of the centre. */
  readonly depth: Travel;
  readonly centre: Travel;
  /** In turns, from the range's start. */
  readonly phase: number;
  /** Of random steps. */
  readonly seed: number;
};

/** How time goes in cycles: the count of cycles since the range's start, which only rises, and the time of a count. */
export type Cycles = { cyclesAt(t: Seconds): number; timeOf(cycles: number): Seconds };

/** Where a cycle has a corner or a step, besides its beginning. */
export const CORNERS: Readonly<Record<Wave, readonly number[]>> = {
  sine: [0.25, 0.5, 0.75],
  triangle: [0.25, 0.75],
  square: [0.5],
  sawUp: [],
  sawDown: [],
  steps: [],
};

const TURN = 2 * Math.PI;
const { floor, imul, sin } = Math;

/**
 * Where a wave is, −1 … 1, at the turns that stand at a place among numbers, in place: for the audio thread, where a number that a
 * call takes or gives back may be a new thing in memory. A step is a number for its seed and its count: the same wherever it is asked.
 */
export function waveInPlace(wave: Wave, seed: number, numbers: Float64Array, at: number): void {
  const turns = numbers[at]!;
  const u = turns - floor(turns);
  if (wave === 'sine') numbers[at] = sin(TURN * u);
  else if (wave === 'triangle') numbers[at] = u < 0.25 ? 4 * u : u < 0.75 ? 2 - 4 * u : 4 * u - 4;
  else if (wave === 'square') numbers[at] = u < 0.5 ? 1 : -1;
  else if (wave === 'sawUp') numbers[at] = 2 * u - 1;
  else if (wave === 'sawDown') numbers[at] = 1 - 2 * u;
  else {
    let h = imul(floor(turns) ^ imul(seed | 0, 0x9e3779b1), 0x85ebca6b);
    h = imul(h ^ (h >>> 13), 0xc2b2ae35);
    numbers[at] = ((h ^ (h >>> 16)) >>> 0) / 2 ** 31 - 1;
  }
}

/** Where a wave is asked for one number. */
const ASKED = new Float64Array(1);

/** {@link waveInPlace} of one number. */
export function waveAt({ wave, seed }: Pick<WaveShape, 'wave' | 'seed'>, turns: number): number {
  ASKED[0] = turns;
  waveInPlace(wave, seed, ASKED, 0);
  return ASKED[0];
}

/** So many straight lines stand for a quarter of a sine of a depth. */
const linesInQuarter = (depth: Travel): number =>
  Math.max(1, Math.ceil(Math.PI / 2 / Math.sqrt((8 * DRAWN_WITHIN) / Math.max(depth, 1e-9))));

/** How many points {@link waveOver} makes at most of so many cycles. */
export const pointsOfWave = ({ wave, depth }: Pick<WaveShape, 'wave' | 'depth'>, cycles: number): number =>
  (cycles + 2) * (wave === 'sine' ? 4 * linesInQuarter(depth) + 4 : 8);

/**
 * A wave over a range, in travel round a centre and within the throw, straight lines between its points; a switch is on where it
 * stands at half and more. `breaks`: times at which cycles begin to go faster or slower (changes of tempo).
 */
export function waveOver(shape: WaveShape, law: Law, range: Range, cycles: Cycles, breaks: readonly Seconds[]): Curve {
  const [a, b] = range;
  const { wave, depth, centre, phase } = shape;
  const isStepped = wave === 'square' || wave === 'steps' || law.kind === 'switch';
  const turnsAt = (t: Seconds): number => cycles.cyclesAt(t) + phase;
  const travelAt = (turns: number): Travel => centre + depth * waveAt(shape, turns);
  const made = new CurveMaker();
  // Where the last two stand before they are kept within the range.
  let [last, lastButOne] = [-Infinity, -Infinity];
  const add = (t: Seconds, x: Travel): void => {
    const v = law.kind === 'switch' ? Number(x >= 0.5) : valueOf(law, x);
    if (made.length && made.lastValue === v && (last === t || isStepped)) return;
    if (last === t && lastButOne === t) made.pop();
    else lastButOne = last;
    last = t;
    if (isStepped) made.add(holdPoint(clamp(t, a, b), v));
    else made.addLine(clamp(t, a, b), v);
  };
  const knots = knotsOf(shape, law, range, cycles, breaks);
  for (let i = 0; i + 1 < knots.length; i++) {
    const [t0, t1] = [knots[i]!, knots[i + 1]!];
    // Looked at just within, where a step at either end is not in doubt.
    const [from, to] = [turnsAt(t0), turnsAt(t1)];
    const middle = (from + to) / 2;
    if (isStepped) {
      add(t0, travelAt(middle));
      continue;
    }
    const [x0, x1] = straightEnds(shape, travelAt, from, to, middle);
    for (const { share, x } of withinThrow(x0, x1)) add(t0 + (t1 - t0) * share, x);
  }
  return made.make();
}

/** Where a straight stretch begins and ends; a saw steps at whole turns, so it is asked of its own cycle. */
function straightEnds(
  { wave, depth, centre }: WaveShape,
  travelAt: (turns: number) => Travel,
  from: number,
  to: number,
  middle: number,
): readonly [Travel, Travel] {
  if (wave !== 'sawUp' && wave !== 'sawDown') return [travelAt(from), travelAt(to)];
  const whole = Math.floor(middle);
  const at = (turns: number): Travel => centre + (wave === 'sawUp' ? 1 : -1) * depth * (2 * (turns - whole) - 1);
  return [at(from), at(to)];
}

/** A straight line kept within the throw: its places, by their share of the way. */
function withinThrow(x0: Travel, x1: Travel): readonly { readonly share: number; readonly x: Travel }[] {
  const cuts = [0, 1].filter((end) => Math.min(x0, x1) < end && end < Math.max(x0, x1));
  const shares = [0, ...cuts.map((end) => (end - x0) / (x1 - x0)).sort((p, q) => p - q), 1];
  return shares.map((share) => ({ share, x: clamp(x0 + (x1 - x0) * share, 0, 1) }));
}

/** Times between which a wave goes straight, or holds. */
function knotsOf(shape: WaveShape, law: Law, [a, b]: Range, cycles: Cycles, breaks: readonly Seconds[]): Float64Array {
  const { wave, depth, phase } = shape;
  const lines = wave === 'sine' ? linesInQuarter(depth) : 1;
  const corners = new Set([0, ...CORNERS[wave]]);
  if (lines > 1) for (let k = 1; k < 4 * lines; k++) corners.add(k / (4 * lines));
  if (law.kind === 'switch') for (const at of switchTurns(shape)) corners.add(at);
  const [first, last] = [Math.floor(cycles.cyclesAt(a) + phase), Math.ceil(cycles.cyclesAt(b) + phase)];
  const times = new Times();
  times.addRun(Float64Array.of(a, ...breaks.filter((t) => t > a && t < b), b));
  for (let turn = first; turn <= last; turn++)
    for (const at of corners) {
      const t = cycles.timeOf(turn + at - phase);
      if (t > a + 1e-9 && t < b - 1e-9) times.add(t);
    }
  return times.rising();
}

/** Where within a cycle a wave comes to half the throw. */
function switchTurns({ wave, depth, centre }: WaveShape): number[] {
  const y = depth ? (0.5 - centre) / depth : 2;
  if (Math.abs(y) > 1) return [];
  const up = Math.asin(y) / (2 * Math.PI);
  const turns = {
    sine: [up, 0.5 - up],
    triangle: [y / 4, 0.5 - y / 4],
    sawUp: [(y + 1) / 2],
    sawDown: [(1 - y) / 2],
    square: [],
    steps: [],
  }[wave];
  return turns.map((at) => (at + 1) % 1);
}
