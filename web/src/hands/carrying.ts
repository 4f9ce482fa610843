import { type Receipt } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type ControlId, type Layer, type Song } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import type { Seconds } from '@sure-hand/core/units';

/** The end (or the beginning) of a span of the last pass, drawn on to another time. */
export type Carry = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly from: Seconds;
  readonly to: Seconds;
};

/** A span of the last pass as it stands, its ends carried on since. */
export type FreshSpan = { readonly control: ControlId; readonly layer: Layer; readonly span: Range };

/** The spans of a pass with what was carried on since, in order. */
export function freshSpans(receipt: Receipt, carries: readonly Carry[]): FreshSpan[] {
  const spans = receipt.lanes.flatMap(({ control, layer, spans }) => spans.map((span) => ({ control, layer, span })));
  return carries.reduce((now, carry) => now.map((one) => carriedSpan(one, carry)), spans);
}

function carriedSpan(fresh: FreshSpan, { control, layer, from, to }: Carry): FreshSpan {
  if (fresh.control !== control || fresh.layer !== layer) return fresh;
  const [a, b] = fresh.span;
  if (to > from && b === from) return { ...fresh, span: [a, to] };
  if (to < from && a === from) return { ...fresh, span: [to, b] };
  return fresh;
}

/** The receipt with its spans as they stand since. */
export function withCarries(receipt: Receipt, carries: readonly Carry[]): Receipt {
  const spans = freshSpans(receipt, carries);
  const lanes = receipt.lanes.map((lane) => ({
    ...lane,
    spans: spans.filter((one) => one.control === lane.control && one.layer === lane.layer).map((one) => one.span),
  }));
  return { ...receipt, lanes };
}

/** Times that carrying snaps to: the lane's own points, the range's edges, sections, the song's ends (rules, 5, Carry). */
export function carryStops(song: Song, { control, layer }: FreshSpan, range: Range | null): Seconds[] {
  const points = layerPoints(laneOf(song, control), layer).t;
  const sections = song.sections.map((section) => section.t);
  const all = [0, song.length, ...points, ...sections, ...(range ?? [])];
  return [...new Set(all)].filter((t) => t >= 0 && t <= song.length).sort((a, b) => a - b);
}

/** The nearest stop after a time, or before it; null where there is none. */
export function nextStop(stops: readonly Seconds[], t: Seconds, direction: 1 | -1): Seconds | null {
  const beyond = stops.filter((stop) => (direction > 0 ? stop > t + 1e-6 : stop < t - 1e-6));
  return (direction > 0 ? beyond[0] : beyond.at(-1)) ?? null;
}

/** A time drawn to the stop nearest to it, where one is within reach. */
export function snappedTo(stops: readonly Seconds[], t: Seconds, reach: Seconds): Seconds {
  let best = t;
  let least = reach;
  for (const stop of stops)
    if (Math.abs(stop - t) <= least) {
      least = Math.abs(stop - t);
      best = stop;
    }
  return best;
}

/** The fresh span of a control that a key carries on: its last one, or for beginnings its first. */
export function spanToCarry(
  spans: readonly FreshSpan[],
  control: ControlId | null,
  direction: 1 | -1,
): FreshSpan | null {
  const own = spans.filter((one) => one.control === control);
  return (direction > 0 ? own.at(-1) : own[0]) ?? null;
}
