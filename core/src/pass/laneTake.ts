import { valueAt, type Curve, type Range } from '../curve/index.js';
import { type LaneReceipt, type Piece } from '../edits/index.js';
import {
  controlOf,
  isSwitch,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type ControlId,
  type Layer,
  type Song,
} from '../song/index.js';
import { travelOf, valueOf, type Law, type Seconds } from '../units/index.js';
import { handPath, switchPoints, type HandValue, type KeptPath } from './handPath.js';
import { PathThinner } from './pathThinner.js';

/** A straight way back to the curve, from a release to where it lands; `to` is where it ends, earlier if it was cut. */
export type ReturnLine = { readonly from: HandValue; readonly lands: HandValue; readonly to: Seconds };

/** A stretch that a pass writes. `to` is null while only an event to come will end it. */
export type Span = {
  readonly from: Seconds;
  readonly to: Seconds | null;
  readonly values: readonly HandValue[];
  readonly line: ReturnLine | null;
};

/** What a take leaves when its pass ends: pieces for the edit, and its lane on the receipt but for its count of points. */
export type TakeResult = { readonly pieces: Piece[]; readonly receipt: Omit<LaneReceipt, 'points'> };

/** What is kept of a span, and what that hangs on: it is kept so as long as the span stays as it was. */
type SpanKept = KeptPath & {
  readonly values: number;
  readonly to: Seconds;
  readonly line: ReturnLine | null;
  readonly tolerance: number;
};

/** A take as it was at a moment: see {@link LaneTake.mark}. Spans and values only ever come on top. */
export type TakeMark = {
  readonly old: Curve;
  readonly rest: number;
  readonly spans: number;
  readonly last: { readonly to: Seconds | null; readonly line: ReturnLine | null; readonly values: number } | null;
  readonly moves: number;
  readonly hasFinger: boolean;
};

/** The value of a return line at t, straight in travel. */
export function lineValueAt(law: Law, { from, lands }: ReturnLine, t: Seconds): number {
  if (t >= lands.t) return lands.v;
  const start = travelOf(law, from.v);
  return valueOf(law, start + ((travelOf(law, lands.v) - start) * (t - from.t)) / (lands.t - from.t));
}

/**
 * What one pass writes on one layer of one lane: spans one after the other, the last of them perhaps still open
 * (in a hand, or held on) or on its way back to the curve.
 */
export class LaneTake {
  readonly law: Law;
  #old: Curve;
  #rest: number;
  readonly #isSwitch: boolean;
  readonly #spans: { from: Seconds; to: Seconds | null; values: HandValue[]; line: ReturnLine | null }[] = [];
  /** Of each span what thins it while it is ridden; none where it was cut back to before what that had taken in. */
  readonly #thinners: (PathThinner | null)[] = [];
  /** Of spans that have ended: what is kept of them, once it was worked out. */
  readonly #kept: (SpanKept | null)[] = [];
  #tolerance: number;
  #moves = 0;
  /** Whether a finger is on the open span. */
  hasFinger = false;

  constructor(
    song: Song,
    readonly control: ControlId,
    readonly layer: Layer,
  ) {
    const lane = laneOf(song, control);
    this.law = layerLaw(song, control, layer);
    this.#old = layerPoints(lane, layer);
    this.#rest = layerRest(lane, layer);
    this.#isSwitch = isSwitch(controlOf(song, control));
    this.#tolerance = song.settings.thin;
  }

  /** The song has changed meanwhile: where return lines to come land is asked of the lane as it is now. */
  follow(song: Song): void {
    this.#tolerance = song.settings.thin;
    const lane = laneOf(song, this.control);
    this.#old = layerPoints(lane, this.layer);
    this.#rest = layerRest(lane, this.layer);
  }

  /** The spans so far, in order. */
  get spans(): readonly Span[] {
    return this.#spans;
  }

  /** Whether the last span is still in a hand or held on. */
  get isOpen(): boolean {
    return this.#spans.at(-1)?.to === null;
  }

  /** The return line that is under way at t; null where none is. */
  lineAt(t: Seconds): ReturnLine | null {
    const last = this.#spans.at(-1);
    return last?.line && t < last.line.to ? last.line : null;
  }

  /** Where this take has the cap at t; null where the curve has it. */
  capAt(t: Seconds): number | null {
    if (this.isOpen) return this.#spans.at(-1)!.values.at(-1)!.v;
    const line = this.lineAt(t);
    return line ? lineValueAt(this.law, line, t) : null;
  }

  /** Begins a span at t; a return line under way is cut there. */
  begin(t: Seconds, v: number, hasFinger: boolean): void {
    this.cutLine(t);
    this.#spans.push({ from: t, to: null, values: [this.#valueAt(t, v)], line: null });
    this.hasFinger = hasFinger;
  }

  /** A finger comes down on the open span: the path goes on from the value held. */
  touch(t: Seconds): void {
    const { values } = this.#spans.at(-1)!;
    values.push({ ...values.at(-1)!, t });
    this.hasFinger = true;
  }

  #valueAt(t: Seconds, v: number): HandValue {
    return { t, v, x: travelOf(this.law, v) };
  }

  /** The hand moves within the open span. */
  move(t: Seconds, v: number): void {
    const { values } = this.#spans.at(-1)!;
    values.push(this.#valueAt(t, v));
    this.#moves++;
    if (!this.#isSwitch) this.#thinnerOf(this.#spans.length - 1, this.#tolerance).follow(values);
  }

  #thinnerOf(span: number, tolerance: number): PathThinner {
    const thinner = this.#thinners[span];
    if (thinner?.tolerance === tolerance) return thinner;
    return (this.#thinners[span] = new PathThinner(this.law, tolerance));
  }

  /**
   * The open span is let go of: a line goes straight to the old curve as it will be `returnTime` later, cut at `limit`.
   * A switch has no line: its span ends here.
   */
  release(t: Seconds, returnTime: Seconds, limit: Seconds): void {
    this.hasFinger = false;
    if (this.#isSwitch || returnTime <= 0) return this.end(t);
    const span = this.#spans.at(-1)!;
    const landsAt = t + returnTime;
    const lands = { t: landsAt, v: valueAt(this.#old, this.law, this.#rest, landsAt) };
    span.to = Math.min(landsAt, Math.max(t, limit));
    span.line = { from: { t, v: span.values.at(-1)!.v }, lands, to: span.to };
  }

  /** Ends the open span at t with a step. A return line is not touched: once begun it is written whole. */
  end(t: Seconds): void {
    this.hasFinger = false;
    if (this.isOpen) this.#spans.at(-1)!.to = t;
  }

  /** Cuts a return line that is under way at t. */
  cutLine(t: Seconds): void {
    const last = this.#spans.at(-1);
    if (!last?.line || last.line.to <= t) return;
    last.to = Math.max(last.from, t);
    last.line = { ...last.line, to: t };
  }

  /** The take as it is now, to come {@link back} to. Costs the same however long it is. */
  mark(): TakeMark {
    const last = this.#spans.at(-1);
    const open = last && { to: last.to, line: last.line, values: last.values.length };
    return {
      old: this.#old,
      rest: this.#rest,
      spans: this.#spans.length,
      last: open ?? null,
      moves: this.#moves,
      hasFinger: this.hasFinger,
    };
  }

  /** Forgets all that came since a mark of this take. */
  back(mark: TakeMark): void {
    this.#old = mark.old;
    this.#rest = mark.rest;
    this.#moves = mark.moves;
    this.hasFinger = mark.hasFinger;
    this.#spans.length = mark.spans;
    this.#thinners.length = Math.min(this.#thinners.length, mark.spans);
    this.#kept.length = Math.min(this.#kept.length, Math.max(0, mark.spans - 1));
    const last = this.#spans.at(-1);
    if (!last || !mark.last) return;
    last.to = mark.last.to;
    last.line = mark.last.line;
    last.values.length = mark.last.values;
    const thinner = this.#thinners[mark.spans - 1];
    if (thinner && thinner.taken > mark.last.values) this.#thinners[mark.spans - 1] = null;
  }

  /** What the pass leaves of this take, thinned within `tolerance`; null where no span has any length. */
  result(tolerance: number): TakeResult | null {
    const pieces: Piece[] = [];
    const returns: Range[] = [];
    let maxDeviation = 0;
    for (const [i, span] of this.#spans.entries()) {
      if (span.to === null || span.to <= span.from) continue;
      const kept = this.#keep(i, span, span.to, tolerance);
      const range: Range = [span.from, span.to];
      pieces.push({ control: this.control, layer: this.layer, span: range, points: kept.points });
      maxDeviation = Math.max(maxDeviation, kept.maxDeviation);
      if (span.line && span.line.from.t < span.to) returns.push([span.line.from.t, span.to]);
    }
    if (!pieces.length) return null;
    const spans = pieces.map((piece) => piece.span);
    const { control, layer } = this;
    const receipt = { control, layer, spans, moves: this.#moves, maxDeviation, clamped: [] };
    return { pieces, receipt: returns.length ? { ...receipt, returns } : receipt };
  }

  #keep(i: number, span: Span, to: Seconds, tolerance: number): KeptPath {
    const { values, line } = span;
    if (this.#isSwitch) return { points: switchPoints(values.filter((value) => value.t < to)), maxDeviation: 0 };
    const known = this.#kept[i];
    if (known?.values === values.length && known.to === to && known.line === line && known.tolerance === tolerance)
      return known;
    const end = line ? Math.min(line.from.t, to) : to;
    const { points, maxDeviation } = this.#thinnerOf(i, tolerance).keep(values, end, this.#lineEnd(span, to));
    this.#kept[i] = { points, maxDeviation, values: values.length, to, line, tolerance };
    return { points, maxDeviation };
  }

  /**
   * Does in advance what the end of the pass would have to do: thins a span that has ended by now, return line and all, if
   * there is one that is not yet. Whether there was.
   */
  workOff(now: Seconds): boolean {
    const isDue = ({ from, to }: Span, i: number): boolean => !this.#kept[i] && to !== null && to > from && to <= now;
    const i = this.#isSwitch ? -1 : this.#spans.findIndex(isDue);
    if (i >= 0) this.#keep(i, this.#spans[i]!, this.#spans[i]!.to!, this.#tolerance);
    return i >= 0;
  }

  /** Where the return line of a span has come to by `to`. */
  #lineEnd({ line }: Span, to: Seconds): HandValue[] {
    return line && to > line.from.t ? [{ t: to, v: lineValueAt(this.law, line, to) }] : [];
  }

  /** The path of a span up to `to`, its return line included, as straight lines in travel. */
  pathOf(span: Span, to: Seconds): HandValue[] {
    const { values, line } = span;
    return [...handPath(values, line ? Math.min(line.from.t, to) : to), ...this.#lineEnd(span, to)];
  }
}
