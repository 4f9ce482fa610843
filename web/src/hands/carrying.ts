import { type CurveEdit, type LoggedLane, type Receipt, type WrittenSpan } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type ControlId, type Layer, type Song } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import type { Seconds } from '@sure-hand/core/units';

/**
 * The end (or the beginning) of a span of the last pass, drawn on to another time. `return`: how long the line takes that leads back
 * to the curve then, of a span that had ended in one.
 */
export type Carry = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly from: Seconds;
  readonly to: Seconds;
  readonly return?: Seconds;
};

/** What was done to the spans of the last pass since: ends carried on together, or all of it put earlier or later. */
export type SpanChange = { readonly carries: readonly Carry[] } | { readonly shift: Seconds };

/** A span of the last pass as it stands. Where it ended in a line back to the curve: from where on, the release. */
export type FreshSpan = WrittenSpan & { readonly release: Seconds | null };

/** What a pass is told of by those who go on with it: its receipt, and what it changed. */
export type FreshPass = { readonly receipt: Receipt; readonly lanes: readonly LoggedLane[] };

/** The spans of a pass with what was done to them since, in order. */
export function freshSpans(receipt: Receipt, changes: readonly SpanChange[]): FreshSpan[] {
  const spans = receipt.lanes.flatMap(({ control, layer, spans, returns = [] }) =>
    spans.map((span): FreshSpan => {
      const release = returns.find(([, end]) => end === span[1])?.[0] ?? null;
      return { control, layer, span, release };
    }),
  );
  return changes.reduce<FreshSpan[]>((now, change) => now.map((one) => changedSpan(one, change)), spans);
}

function changedSpan(fresh: FreshSpan, change: SpanChange): FreshSpan {
  if ('carries' in change) return change.carries.reduce(carriedSpan, fresh);
  const { span, release } = fresh;
  const { shift } = change;
  return { ...fresh, span: [span[0] + shift, span[1] + shift], release: release === null ? null : release + shift };
}

/** Where a span's end is taken hold of to be carried: at the release, where it came back by a line. */
export const endOf = ({ span, release }: FreshSpan): Seconds => release ?? span[1];

function carriedSpan(fresh: FreshSpan, { control, layer, from, to, return: back = 0 }: Carry): FreshSpan {
  if (fresh.control !== control || fresh.layer !== layer) return fresh;
  const [a, b] = fresh.span;
  if (to > from && endOf(fresh) === from) return { ...fresh, span: [a, to + back], release: back ? to : null };
  if (to < from && a === from) return { ...fresh, span: [to, b] };
  return fresh;
}

/** The receipt with its spans as they stand since. */
export function withChanges(receipt: Receipt, changes: readonly SpanChange[]): Receipt {
  const spans = freshSpans(receipt, changes);
  const lanes = receipt.lanes.map((lane) => ({
    ...lane,
    spans: spans.filter((one) => one.control === lane.control && one.layer === lane.layer).map((one) => one.span),
  }));
  return { ...receipt, lanes };
}

/** A span's end, or its beginning, carried to a time, with the line back to the curve where it had one and the song has room for it. */
export function carryOf(song: Song, fresh: FreshSpan, edge: 'start' | 'end', to: Seconds): Carry {
  const { control, layer, span, release } = fresh;
  if (edge === 'start') return { control, layer, from: span[0], to };
  const back = release === null ? 0 : Math.min(song.settings.returnTime, song.length - to);
  return { control, layer, from: endOf(fresh), to, ...(back > 0 ? { return: back } : {}) };
}

/** Ends of some spans, or their beginnings, carried to one time: of those that it lies beyond. */
export const carriesTo = (
  song: Song,
  spans: readonly FreshSpan[],
  edge: 'start' | 'end',
  to: Seconds,
): readonly Carry[] =>
  spans
    .map((one) => carryOf(song, one, edge, to))
    .filter((carry) => (edge === 'end' ? to > carry.from : to < carry.from));

/** Carries as edits. */
export const carryEdits = (carries: readonly Carry[]): CurveEdit[] =>
  carries.map((carry) => ({ kind: 'carry', ...carry }));

/** Times that carrying snaps to: the lane's own points, the range's edges, sections, the song's ends (rules, 5, Carry). */
export function carryStops(
  song: Song,
  { control, layer }: Pick<FreshSpan, 'control' | 'layer'>,
  range: Range | null,
): Seconds[] {
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

/** The ends of a pass that are carried together: of each of its lanes the last one, or for beginnings the first. */
export function spansToCarry(spans: readonly FreshSpan[], direction: 1 | -1): FreshSpan[] {
  const controls = [...new Set(spans.map(({ control, layer }) => `${layer} ${control}`))];
  return controls.map((key) => {
    const own = spans.filter(({ control, layer }) => `${layer} ${control}` === key);
    return direction > 0 ? own.at(-1)! : own[0]!;
  });
}
