import type { ReturnSound } from '../song/index.js';
import type { Frames } from '../units/index.js';

/**
 * The plain sound of a return bus: what is sent to it goes in, only the effect comes out. Processes in place and
 * allocates nothing after its making.
 */
export type ReturnEffect = {
  readonly process: (left: Float32Array, right: Float32Array, count: Frames) => void;
  /** Empties it, as if the song began to play at a frame. */
  readonly clear: (frame: Frames) => void;
};

/** After this long what a return still has of a sound is below −140 dBFS; a bounce of a range begins so much earlier. */
export const TAIL_SEC: Record<ReturnSound, number> = { reverb: 5, delay: 2, chorus: 0.1 };

/** Added to what recirculates: a sound that dies away must not end in numbers too small to be quick. */
const FLOOR = 1e-18;
/** Frames worked on at a time, fewer where a line is shorter: within them no line hears what it is given. */
const CHUNK = 256;

/** The hall: eight lines of different lengths that feed each other through a reflection (Jot & Chaigne, AES 1991). */
const HALL = {
  preDelaySec: 0.018,
  lineSec: [0.0297, 0.0371, 0.0411, 0.0437, 0.0531, 0.0617, 0.0677, 0.0733],
  /** Seconds to −60 dB, low in pitch; the damping makes it about half of that high up. */
  decaySec: 2,
  damping: 0.28,
  level: 0.42,
} as const;

/** A ring of past samples that is read a fixed way back, a chunk at a time, and then written. */
class DelayLine {
  readonly #past: Float64Array;
  #at = 0;

  /** `frames`: the way back, at least a chunk. */
  constructor(readonly frames: Frames) {
    this.#past = new Float64Array(frames);
  }

  clear(): void {
    this.#past.fill(0);
    this.#at = 0;
  }

  /** The next `count` samples to come out, into `out`. */
  read(out: Float64Array, count: Frames): void {
    const past = this.#past;
    const at = this.#at;
    const first = Math.min(count, past.length - at);
    for (let k = 0; k < first; k++) out[k] = past[at + k]!;
    for (let k = first; k < count; k++) out[k] = past[k - first]!;
  }

  /** Takes `count` samples in, in place of those just read. */
  write(samples: Float64Array, count: Frames): void {
    const past = this.#past;
    const at = this.#at;
    const first = Math.min(count, past.length - at);
    for (let k = 0; k < first; k++) past[at + k] = samples[k]!;
    for (let k = first; k < count; k++) past[k - first] = samples[k]!;
    this.#at = (at + count) % past.length;
  }
}

class Reverb implements ReturnEffect {
  readonly #before: readonly [DelayLine, DelayLine];
  readonly #lines: readonly DelayLine[];
  readonly #gains: readonly number[];
  readonly #damped = new Float64Array(HALL.lineSec.length);
  readonly #outs: readonly Float64Array[];
  readonly #ins: readonly [Float64Array, Float64Array] = [new Float64Array(CHUNK), new Float64Array(CHUNK)];
  readonly #sum = new Float64Array(CHUNK);
  readonly #chunk: Frames;

  constructor(sampleRate: number) {
    const before = Math.round(HALL.preDelaySec * sampleRate);
    this.#before = [new DelayLine(before), new DelayLine(before)];
    this.#lines = HALL.lineSec.map((sec) => new DelayLine(Math.round(sec * sampleRate)));
    this.#gains = HALL.lineSec.map((sec) => 10 ** ((-3 * sec) / HALL.decaySec));
    this.#outs = HALL.lineSec.map(() => new Float64Array(CHUNK));
    this.#chunk = Math.min(CHUNK, before) | 0;
  }

  clear(): void {
    for (const line of [...this.#before, ...this.#lines]) line.clear();
    this.#damped.fill(0);
  }

  process(left: Float32Array, right: Float32Array, count: Frames): void {
    for (let from = 0; from < count; from += this.#chunk)
      this.#work(left, right, from, Math.min(this.#chunk, count - from));
  }

  #work(left: Float32Array, right: Float32Array, fromFrame: Frames, frames: Frames): void {
    // Whole numbers by name: the loops below are quicker with them.
    const from = fromFrame | 0;
    const n = frames | 0;
    const [inLeft, inRight] = this.#ins;
    this.#delayed(0, left, from, n);
    this.#delayed(1, right, from, n);
    const sum = this.#sum;
    sum.fill(0, 0, n);
    for (let i = 0; i < this.#lines.length; i++) this.#decay(i, n);
    const share = 2 / this.#lines.length;
    for (let k = 0; k < n; k++) sum[k] = sum[k]! * share;
    left.fill(0, from, from + n);
    right.fill(0, from, from + n);
    for (let i = 0; i < this.#lines.length; i++) {
      const out = this.#outs[i]!;
      const side = i % 2 ? right : left;
      const given = i % 2 ? inRight : inLeft;
      const level = i % 4 < 2 ? HALL.level : -HALL.level;
      for (let k = 0; k < n; k++) {
        const x = out[k]!;
        side[from + k]! += x * level;
        out[k] = given[k]! + x - sum[k]! + FLOOR;
      }
      this.#lines[i]!.write(out, n);
    }
  }

  /** What a side was given a moment ago, into its place; what it is given now, into the line. */
  #delayed(side: 0 | 1, input: Float32Array, from: Frames, n: Frames): void {
    const kept = this.#ins[side];
    const fresh = this.#sum;
    const line = this.#before[side];
    line.read(kept, n);
    for (let k = 0; k < n; k++) fresh[k] = input[from + k]!;
    line.write(fresh, n);
  }

  /** One line's end, damped and fainter by its length, into its place and the sum of all. */
  #decay(i: number, n: Frames): void {
    const out = this.#outs[i]!;
    const sum = this.#sum;
    const gain = this.#gains[i]!;
    let damped = this.#damped[i]!;
    this.#lines[i]!.read(out, n);
    const { damping } = HALL;
    for (let k = 0; k < n; k++) {
      const x = out[k]!;
      damped = x + (damped - x) * damping;
      const y = damped * gain;
      out[k] = y;
      sum[k]! += y;
    }
    this.#damped[i] = damped;
  }
}

/** The slap: one repeat that crosses to the other side, and a few fainter ones, each duller. */
const SLAP = { sec: 0.118, again: 0.22, dull: 0.45 } as const;

class Delay implements ReturnEffect {
  readonly #lines: readonly [DelayLine, DelayLine];
  readonly #outs: readonly [Float64Array, Float64Array] = [new Float64Array(CHUNK), new Float64Array(CHUNK)];
  readonly #dull = new Float64Array(2);

  constructor(sampleRate: number) {
    const frames = Math.round(SLAP.sec * sampleRate);
    this.#lines = [new DelayLine(frames), new DelayLine(frames)];
  }

  clear(): void {
    this.#lines.forEach((line) => line.clear());
    this.#dull.fill(0);
  }

  process(left: Float32Array, right: Float32Array, count: Frames): void {
    for (let from = 0; from < count; from += CHUNK) this.#work(left, right, from, Math.min(CHUNK, count - from));
  }

  #work(left: Float32Array, right: Float32Array, from: Frames, n: Frames): void {
    this.#duller(0, n);
    this.#duller(1, n);
    const [outLeft, outRight] = this.#outs;
    for (let k = 0; k < n; k++) {
      const l = outLeft[k]!;
      const r = outRight[k]!;
      outLeft[k] = right[from + k]! + r * SLAP.again + FLOOR;
      outRight[k] = left[from + k]! + l * SLAP.again + FLOOR;
      left[from + k] = l;
      right[from + k] = r;
    }
    this.#lines[0].write(outLeft, n);
    this.#lines[1].write(outRight, n);
  }

  #duller(side: 0 | 1, n: Frames): void {
    const out = this.#outs[side];
    let dull = this.#dull[side]!;
    this.#lines[side].read(out, n);
    for (let k = 0; k < n; k++) out[k] = dull = out[k]! + (dull - out[k]!) * SLAP.dull;
    this.#dull[side] = dull;
  }
}

/** The swirl: two voices a side whose delay sways slowly, each a quarter of a turn on from the other. */
const SWIRL = { sec: 0.014, swaySec: 0.0045, hz: 0.55 } as const;

class Chorus implements ReturnEffect {
  readonly #past: readonly [Float64Array, Float64Array];
  readonly #centre: number;
  readonly #sway: number;
  /** Which frame comes next; how far it turns with each, and the sine and cosine of that. Here, a number leaves nothing behind when it changes. */
  readonly #swirl = new Float64Array(4);
  #at = 0;

  constructor(sampleRate: number) {
    this.#centre = SWIRL.sec * sampleRate;
    this.#sway = SWIRL.swaySec * sampleRate;
    const turn = (2 * Math.PI * SWIRL.hz) / sampleRate;
    this.#swirl.set([0, turn, Math.sin(turn), Math.cos(turn)]);
    // A power of two, so that a place in the ring is found by its lowest bits.
    const frames = 2 ** Math.ceil(Math.log2(this.#centre + this.#sway + 2));
    this.#past = [new Float64Array(frames), new Float64Array(frames)];
  }

  clear(frame: Frames): void {
    this.#past.forEach((past) => past.fill(0));
    this.#swirl[0] = frame;
  }

  process(left: Float32Array, right: Float32Array, count: Frames): void {
    const [one, other] = this.#past;
    const mask = one.length - 1;
    // The two sways are the sine and cosine of one turning point, turned on by a step each frame.
    const swirl = this.#swirl;
    let sin = Math.sin(swirl[1]! * swirl[0]!);
    let cos = Math.cos(swirl[1]! * swirl[0]!);
    const stepSin = swirl[2]!;
    const stepCos = swirl[3]!;
    const centre = this.#centre;
    const sway = this.#sway;
    let at = this.#at;
    for (let k = 0; k < count; k++) {
      const a = sway * sin;
      const b = sway * cos;
      one[at] = left[k]!;
      other[at] = right[k]!;
      left[k] = 0.7 * (tap(one, at, mask, centre + a) + tap(one, at, mask, centre + b));
      right[k] = 0.7 * (tap(other, at, mask, centre - a) + tap(other, at, mask, centre - b));
      at = (at + 1) & mask;
      const turned = sin * stepCos + cos * stepSin;
      cos = cos * stepCos - sin * stepSin;
      sin = turned;
    }
    this.#at = at;
    swirl[0] = swirl[0]! + count;
  }
}

/** The sample `back` frames before place `at` of a ring, straight between two where it falls between them. */
function tap(past: Float64Array, at: number, mask: number, back: number): number {
  const whole = back | 0;
  const newer = past[(at - whole) & mask]!;
  return newer + (past[(at - whole - 1) & mask]! - newer) * (back - whole);
}

/** Makes the effect of a return at a sample rate. */
export function returnEffect(sound: ReturnSound, sampleRate: number): ReturnEffect {
  switch (sound) {
    case 'reverb':
      return new Reverb(sampleRate);
    case 'delay':
      return new Delay(sampleRate);
    case 'chorus':
      return new Chorus(sampleRate);
  }
}
