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

/** Below this a recirculating sample is nothing: it also keeps the processor from numbers too small to be quick. */
const NOTHING = 1e-15;

/** A line of past samples, read so many frames back. */
class DelayLine {
  readonly #past: Float64Array;
  #at = 0;

  constructor(readonly frames: Frames) {
    this.#past = new Float64Array(frames + 2);
  }

  clear(): void {
    this.#past.fill(0);
    this.#at = 0;
  }

  /** The sample written `back` frames ago, straight between two where it falls between them; 1 ≤ back ≤ frames. */
  read(back: number): number {
    const n = this.#past.length;
    const whole = Math.floor(back);
    const part = back - whole;
    let i = this.#at - whole;
    if (i < 0) i += n;
    const j = i === 0 ? n - 1 : i - 1;
    return this.#past[i]! + (this.#past[j]! - this.#past[i]!) * part;
  }

  /** The sample written `frames` ago. */
  end(): number {
    const n = this.#past.length;
    const i = this.#at - this.frames;
    return this.#past[i < 0 ? i + n : i]!;
  }

  write(x: number): void {
    this.#past[this.#at] = Math.abs(x) < NOTHING ? 0 : x;
    this.#at = this.#at + 1 === this.#past.length ? 0 : this.#at + 1;
  }
}

/** The hall: eight lines of different lengths that feed each other through a reflection (Jot & Chaigne, AES 1991). */
const HALL = {
  preDelaySec: 0.018,
  lineSec: [0.0297, 0.0371, 0.0411, 0.0437, 0.0531, 0.0617, 0.0677, 0.0733],
  /** Seconds to −60 dB, low in pitch; the damping makes it about half of that high up. */
  decaySec: 2,
  damping: 0.28,
  level: 0.42,
} as const;

class Reverb implements ReturnEffect {
  readonly #before: DelayLine;
  readonly #lines: readonly DelayLine[];
  readonly #gains: readonly number[];
  readonly #damped = new Float64Array(HALL.lineSec.length);
  readonly #out = new Float64Array(HALL.lineSec.length);

  constructor(sampleRate: number) {
    this.#before = new DelayLine(2 * Math.round(HALL.preDelaySec * sampleRate));
    this.#lines = HALL.lineSec.map((sec) => new DelayLine(Math.round(sec * sampleRate)));
    this.#gains = HALL.lineSec.map((sec) => 10 ** ((-3 * sec) / HALL.decaySec));
  }

  clear(): void {
    this.#before.clear();
    this.#lines.forEach((line) => line.clear());
    this.#damped.fill(0);
  }

  process(left: Float32Array, right: Float32Array, count: Frames): void {
    const lines = this.#lines;
    const out = this.#out;
    const damped = this.#damped;
    const n = lines.length;
    // The pre-delay line carries both sides in turn.
    const before = this.#before;
    for (let k = 0; k < count; k++) {
      const inLeft = before.end();
      before.write(left[k]!);
      const inRight = before.end();
      before.write(right[k]!);
      let sum = 0;
      for (let i = 0; i < n; i++) {
        const x = lines[i]!.end();
        damped[i] = x + (damped[i]! - x) * HALL.damping;
        out[i] = damped[i]! * this.#gains[i]!;
        sum += out[i]!;
      }
      const shared = (2 / n) * sum;
      let l = 0;
      let r = 0;
      for (let i = 0; i < n; i++) {
        const even = i % 2 === 0;
        lines[i]!.write((even ? inLeft : inRight) + out[i]! - shared);
        const sign = i % 4 < 2 ? 1 : -1;
        if (even) l += sign * out[i]!;
        else r += sign * out[i]!;
      }
      left[k] = l * HALL.level;
      right[k] = r * HALL.level;
    }
  }
}

/** The slap: one repeat that crosses to the other side, and a few fainter ones, each duller. */
const SLAP = { sec: 0.118, again: 0.22, dull: 0.45 } as const;

class Delay implements ReturnEffect {
  readonly #lines: readonly [DelayLine, DelayLine];
  #dullLeft = 0;
  #dullRight = 0;

  constructor(sampleRate: number) {
    const frames = Math.round(SLAP.sec * sampleRate);
    this.#lines = [new DelayLine(frames), new DelayLine(frames)];
  }

  clear(): void {
    this.#lines.forEach((line) => line.clear());
    this.#dullLeft = this.#dullRight = 0;
  }

  process(left: Float32Array, right: Float32Array, count: Frames): void {
    const [toLeft, toRight] = this.#lines;
    for (let k = 0; k < count; k++) {
      const l = toLeft.end();
      const r = toRight.end();
      this.#dullLeft = l + (this.#dullLeft - l) * SLAP.dull;
      this.#dullRight = r + (this.#dullRight - r) * SLAP.dull;
      toLeft.write(right[k]! + this.#dullRight * SLAP.again);
      toRight.write(left[k]! + this.#dullLeft * SLAP.again);
      left[k] = this.#dullLeft;
      right[k] = this.#dullRight;
    }
  }
}

/** The swirl: two voices a side whose delay sways slowly, each a quarter of a turn on from the other. */
const SWIRL = { sec: 0.014, swaySec: 0.0045, hz: 0.55 } as const;

class Chorus implements ReturnEffect {
  readonly #lines: readonly [DelayLine, DelayLine];
  readonly #centre: number;
  readonly #sway: number;
  readonly #turn: number;
  #frame = 0;

  constructor(sampleRate: number) {
    this.#centre = SWIRL.sec * sampleRate;
    this.#sway = SWIRL.swaySec * sampleRate;
    this.#turn = (2 * Math.PI * SWIRL.hz) / sampleRate;
    const frames = Math.ceil(this.#centre + this.#sway) + 2;
    this.#lines = [new DelayLine(frames), new DelayLine(frames)];
  }

  clear(frame: Frames): void {
    this.#lines.forEach((line) => line.clear());
    this.#frame = frame;
  }

  process(left: Float32Array, right: Float32Array, count: Frames): void {
    const [one, other] = this.#lines;
    for (let k = 0; k < count; k++) {
      const a = this.#sway * Math.sin(this.#turn * this.#frame);
      const b = this.#sway * Math.cos(this.#turn * this.#frame++);
      one.write(left[k]!);
      other.write(right[k]!);
      left[k] = 0.7 * (one.read(this.#centre + a) + one.read(this.#centre + b));
      right[k] = 0.7 * (other.read(this.#centre - a) + other.read(this.#centre - b));
    }
  }
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
