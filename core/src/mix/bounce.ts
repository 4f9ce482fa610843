import type { Range } from '../curve/index.js';
import type { Frames } from '../units/index.js';
import type { MixPlan } from './plan.js';
import { MAX_BLOCK, MixRenderer, type SampleSource } from './renderer.js';

/** Takes the bounced frames as they come: the first `count` of each side. The arrays are used again for the next. */
export type BounceSink = (left: Float32Array, right: Float32Array, count: Frames) => void;

/** The frames of a range of seconds of a plan; the whole song where there is none. */
export function framesOf(plan: MixPlan, range: Range | null): readonly [Frames, Frames] {
  if (!range) return [0, plan.length];
  return [Math.round(range[0] * plan.sampleRate), Math.round(range[1] * plan.sampleRate)];
}

/** Renders [from, to) of a plan into a sink: the mix as it is heard, with nobody's hand on it. */
export function bounce(
  plan: MixPlan,
  source: SampleSource,
  [from, to]: readonly [Frames, Frames],
  sink: BounceSink,
): void {
  const renderer = new MixRenderer(plan, source);
  renderer.locate(from);
  const left = new Float32Array(MAX_BLOCK);
  const right = new Float32Array(MAX_BLOCK);
  for (let frame = from; frame < to; frame += MAX_BLOCK) {
    const count = Math.min(MAX_BLOCK, to - frame);
    renderer.render(left, right, count);
    sink(left, right, count);
  }
}
