import type { Seconds, Travel } from '../units/index.js';
import { ReachTube, type Samples, type Start } from './reachTube.js';

export type { Samples } from './reachTube.js';

/** What thinning gives back: vertices, and how far they ever are from the samples, in travel. */
export type Thinned = { readonly t: Seconds[]; readonly x: Travel[]; readonly maxDeviation: number };

export type ThinLimits = { readonly exactSteps: number; readonly fewStarts: number };

/** How much work thinning may do. Up to `exactSteps` it tries every start of every segment, past it a few. */
export const THIN_LIMITS: ThinLimits = { exactSteps: 40_000, fewStarts: 2 };

/**
 * Thins a run of samples to the fewest vertices it finds that never deviate by more than `tolerance` (travel) at
 * any time, keeping both ends exactly (rules, 7). Vertices stand at times of samples, their values are free.
 *
 * Minimum-link paths through the tube of ±tolerance, after Imai & Iri (1988): level k holds, for every sample, the
 * values a vertex there can have after k segments. Each level is grown from every place of the level before, and from
 * the level before that with one segment spent on a free choice of value (in long runs from a few places), then the path is read off backwards, each value chosen nearest to the samples.
 */
export function thinRun(samples: Samples, tolerance: number, limits: ThinLimits = THIN_LIMITS): Thinned {
  const n = samples.t.length;
  if (n <= 2 || tolerance <= 0) return { t: Array.from(samples.t), x: Array.from(samples.x), maxDeviation: 0 };
  const tube = new ReachTube(samples, tolerance);
  const starts: Start[][] = [[{ index: 0, wide: false }]];
  tube.allow(0, samples.x[0]!, samples.x[0]!);
  let reached = 0;
  let steps = 0;
  while (reached < n - 1) {
    let far = reached;
    const level = starts.at(-1)!;
    for (const from of level) {
      const to = tube.grow(from, reached);
      steps += to - from.index;
      if (to > far) far = to;
    }
    const few = steps > limits.exactSteps;
    const next = startsIn(reached + 1, far, few ? limits.fewStarts : Infinity);
    if (!few) for (const { index, wide } of level) if (!wide && index > 0) next.push({ index, wide: true });
    starts.push(next);
    reached = far;
  }
  const vertices = tube.pathBack(starts);
  const t = vertices.map((v) => samples.t[v.index]!);
  const x = vertices.map((v) => v.x);
  x[0] = samples.x[0]!;
  return { t, x, maxDeviation: deviationOf(samples, vertices) };
}

/** Places to go on from: all of first … last, or a few of them, thicker towards the last. */
function startsIn(first: number, last: number, most: number): Start[] {
  const all = last - first + 1;
  if (all <= most) return Array.from({ length: all }, (_, i) => ({ index: last - i, wide: false }));
  const few: Start[] = [{ index: last, wide: false }];
  for (let i = 1; i < most; i++) {
    const index = last - Math.round(all * 0.5 * (i / most) ** 2);
    if (index !== few.at(-1)!.index) few.push({ index, wide: false });
  }
  return few;
}

/** The largest distance, at any sample, of the line through the vertices. */
function deviationOf(samples: Samples, vertices: readonly { readonly index: number; readonly x: number }[]): number {
  let worst = 0;
  for (let k = 0; k + 1 < vertices.length; k++) {
    const a = vertices[k]!;
    const b = vertices[k + 1]!;
    const ta = samples.t[a.index]!;
    const slope = (b.x - a.x) / (samples.t[b.index]! - ta);
    for (let i = a.index; i <= b.index; i++) {
      const off = Math.abs(a.x + slope * (samples.t[i]! - ta) - samples.x[i]!);
      if (off > worst) worst = off;
    }
  }
  return worst;
}
