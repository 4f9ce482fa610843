import { either, type Chance } from '../chance.js';
import { BandPass, LowPass, SAMPLE_RATE, swell, type Sounding } from './sound.js';

/** Strokes of a frame drum: a deep one in the middle, a slap at the rim, a light tap. */
export type Stroke = 'deep' | 'slap' | 'tap';

/** A struck skin: a few modes of a round membrane, the lowest falling as it settles, and the hand's own noise. */
export function strike(stroke: Stroke, force: number, random: Chance): Float32Array {
  const [base, ring, hand, handHz] = (
    { deep: [78, 0.42, 0.25, 500], slap: [150, 0.14, 0.9, 2200], tap: [190, 0.1, 0.5, 3200] } as const
  )[stroke];
  const out = new Float32Array(Math.round((ring * 3 + 0.05) * SAMPLE_RATE));
  const modes = [1, 1.59, 2.14, 2.65].map((ratio, i) => ({ hz: base * ratio, gain: 0.9 / (1 + i * 1.4), phase: 0 }));
  const noise = new BandPass(handHz, 1.2);
  for (let i = 0; i < out.length; i++) {
    const t = i / SAMPLE_RATE;
    let y = noise.run(either(random)) * hand * Math.exp(-t * 70);
    modes.forEach((mode, k) => {
      mode.phase += (mode.hz * (1 + 0.25 * Math.exp(-t * 35))) / SAMPLE_RATE;
      y += Math.sin(2 * Math.PI * mode.phase) * mode.gain * Math.exp((-t * (1 + k * 0.7)) / (ring * 0.45));
    });
    out[i] = y * force * Math.min(1, t / 0.001);
  }
  return out;
}

/** A note of a pump organ: two ranks of reeds a hair apart, rich in odd partials, with the bellows behind them. */
export function reed({ sec, hz, force }: Sounding, random: Chance): Float32Array {
  const release = 0.18;
  const out = new Float32Array(Math.ceil((sec + release) * SAMPLE_RATE));
  const partials = [1, 0.55, 0.6, 0.25, 0.35, 0.12, 0.2, 0.08].filter((_, k) => hz * (k + 1) < 12000);
  const phases = [random(), random()];
  const bellows = 0.6 + 0.5 * random();
  const start = random();
  for (let i = 0; i < out.length; i++) {
    const t = i / SAMPLE_RATE;
    let y = 0;
    for (let rank = 0; rank < 2; rank++) {
      phases[rank]! += (hz * (rank ? 1.0022 : 0.9985)) / SAMPLE_RATE;
      const angle = 2 * Math.PI * phases[rank]!;
      // sin(kx) by the recurrence of Chebyshev: two sines a rank, however many partials.
      const twice = 2 * Math.cos(angle);
      let s0 = 0;
      let s1 = Math.sin(angle);
      for (const gain of partials) {
        y += s1 * gain;
        const s2 = twice * s1 - s0;
        s0 = s1;
        s1 = s2;
      }
    }
    const breath = 1 + 0.07 * Math.sin(2 * Math.PI * (bellows * t + start));
    out[i] = y * 0.16 * breath * swell(i, sec, 0.09, release) * force;
  }
  return out;
}

/** The mill wheel: water over paddles, turning, at the same level for as long as it is asked for. */
export function wheel(sec: number, random: Chance): Float32Array {
  const out = new Float32Array(Math.round(sec * SAMPLE_RATE));
  const rush = new BandPass(620, 0.6);
  const splash = new BandPass(2400, 0.9);
  const rumble = new LowPass(90);
  for (let i = 0; i < out.length; i++) {
    const t = i / SAMPLE_RATE;
    const turn = (t * 0.85) % 1;
    const paddle = Math.exp(-((turn * 6) % 1) * 5);
    const white = either(random);
    out[i] =
      rush.run(white) * (0.5 + 0.35 * paddle) + splash.run(white) * (0.1 + 0.3 * paddle) + rumble.run(white) * 1.6;
  }
  return out;
}
