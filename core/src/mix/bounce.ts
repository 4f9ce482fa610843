import type { Range } from '../curve/index.js';
import type { Frames } from '../units/index.js';
import { tailInBounce } from './insertRack.js';
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

/** How much earlier a mix must begin for its returns and inserts to have all they had: their longest tails; all of it where there is no telling. */
function leadIn(plan: MixPlan): Frames {
  const { nodes, sampleRate } = plan;
  const tails = nodes.map((node) => tailInBounce(node, plan));
  if (tails.some((frames) => frames < 0)) return Infinity;
  const returns = nodes.map(({ sound }) => (sound ? Math.round(TAIL_SEC[sound] * sampleRate) : 0));
  // One after the other on the way out.
  return tails.reduce((sum, frames) => sum + frames, 0) + Math.max(0, ...returns);
}

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
