import type { Range } from '../curve/index.js';
import type { Frames } from '../units/index.js';
import type { MixPlan } from './plan.js';
import { TAIL_SEC } from './returnSound.js';
import { MAX_BLOCK, MixRenderer, type SampleSource } from './renderer.js';

/** Takes the bounced frames as they come: the first `count` of each side. The arrays are used again for the next. */
export type BounceSink = (left: Float32Array, right: Float32Array, count: Frames) => void;

/** The frames of a range of seconds of a plan; the whole song where there is none. */
export function framesOf(plan: MixPlan, range: Range | null): readonly [Frames, Frames] {
  if (!range) return [0, plan.length];
  return [Math.round(range[0] * plan.sampleRate), Math.round(range[1] * plan.sampleRate)];
}

/** How much earlier a mix must begin for its returns to have all they had: their longest tail. */
const leadIn = ({ nodes, sampleRate }: MixPlan): Frames =>
  Math.round(sampleRate * Math.max(0, ...nodes.map(({ sound }) => (sound ? TAIL_SEC[sound] : 0))));

/** Renders [from, to) of a plan into a sink: the mix as it is heard, with nobody's hand on it. */
export function bounce(
  plan: MixPlan,
  source: SampleSource,
  [from, to]: readonly [Frames, Frames],
  sink: BounceSink,
): void {
  const renderer = new MixRenderer(plan, source);
  const left = new Float32Array(MAX_BLOCK);
  const right = new Float32Array(MAX_BLOCK);
  const start = Math.max(0, from - leadIn(plan));
  renderer.locate(start);
  for (let frame = start; frame < to;) {
    const count = Math.min(MAX_BLOCK, (frame < from ? from : to) - frame);
    renderer.render(left, right, count);
    if (frame >= from) sink(left, right, count);
    frame += count;
  }
}
