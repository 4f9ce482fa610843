import { Curve, holdPoint, linePoint, thinnedCurve, type Point } from '@sure-hand/core/curve';
import type { Edit, LayerOf } from '@sure-hand/core/edits';
import { controlOf, isSwitch, layerLaw, layerScale, type Song } from '@sure-hand/core/song';
import { clamp, type Seconds } from '@sure-hand/core/units';
import { lanesWords, layerOf } from '../../../hands/picking.js';
import { store } from '../../../store/store.js';
import { didSomething, drawingSet, takenInRow } from '../../../store/viewSlice.js';
import { laneOfRow, valueOfY } from '../drawLanes.js';
import { drawAmount } from '../pointMarks.js';
import { RIDE, type ChannelRow } from '../rideLayout.js';
import { timeAt } from '../rideScale.js';
import type { Gesture, GestureKind, PointerAt, StageRef } from './gesture.js';
import { refusalAt } from './mendPoints.js';

/** Values that a hand has drawn, in order of time, no two at one. */
type Drawn = readonly { readonly t: Seconds; readonly v: number }[];

/** A drawing that goes on to a place: what it passes over, forwards or back, is drawn anew. */
export function drawnOn(path: Drawn, from: Drawn[number], to: Drawn[number]): Drawn {
  if (to.t > from.t && path.at(-1)?.t === from.t) return [...path, to];
  const [early, late] = from.t <= to.t ? [from, to] : [to, from];
  const ends = early.t === late.t ? [to] : [early, late];
  return [...path.filter(({ t }) => t < early.t), ...ends, ...path.filter(({ t }) => t > late.t)];
}

/** What was drawn as the points of a curve: straight lines from value to value; a switch turns where it is drawn over. */
export function pointsDrawn(song: Song, { control }: LayerOf, path: Drawn): Curve {
  if (!isSwitch(controlOf(song, control))) return Curve.of(path.map(({ t, v }) => linePoint(t, v)));
  const turns: Point[] = [];
  for (const { t, v } of path) {
    const on = v >= 0.5 ? 1 : 0;
    if (turns.at(-1)?.v !== on) turns.push(holdPoint(t, on));
  }
  return Curve.of(turns);
}

/**
 * A curve drawn with the pointer, while the key is held or once: heard and seen as it grows, thinned as the pointer comes up. Its ends
 * are steps: nothing beside it is changed.
 */
export const drawByHand = (stage: StageRef): GestureKind => {
  const isHere = (at: PointerAt): at is PointerAt & { readonly row: ChannelRow } =>
    store.getState().view.drawing !== null && at.row !== null && at.row.isTall && !at.onRuler && at.x >= RIDE.meterPx;
  return {
    hit: (at) => (isHere(at) ? { cursor: 'crosshair', title: 'Draw the curve' } : null),
    begin(at) {
      if (!isHere(at)) return null;
      const { dispatch, open } = stage.current;
      dispatch(takenInRow(at.row));
      return refusalAt(open.drafting.song, at.row.control, at) ?? new Drawing(stage, at.row, at).gesture;
    },
  };
};

class Drawing {
  #path: Drawn;
  #last: { readonly t: Seconds; readonly v: number };
  #at: { readonly x: number; readonly y: number };
  readonly #of: LayerOf;

  constructor(
    readonly stage: StageRef,
    readonly row: ChannelRow,
    from: PointerAt,
  ) {
    this.#of = layerOf(stage.current.open.drafting.song, row.control);
    this.#at = { x: from.x, y: from.rowY };
    this.#last = this.#placeAt(from.x, from.rowY);
    this.#path = [this.#last];
  }

  get gesture(): Gesture {
    const drop = (): void => this.#over(() => this.stage.current.open.drafting.drop());
    return {
      move: (at) => this.#move(at),
      end: () => this.#over(() => this.#keep()),
      cancel: drop,
      drop,
      holdsPicture: true,
      draw: (ctx, scale, look) => drawAmount(ctx, look, this.#words(), this.#at.x, this.#at.y - 26, scale.width),
      state: () => `${this.#at.x} ${this.#at.y}`,
    };
  }

  #placeAt(x: number, rowY: number): { t: Seconds; v: number } {
    const { open, scale, song } = this.stage.current;
    const t = clamp(timeAt(scale, x), 0, song.length);
    return { t, v: valueOfY(open.drafting.song, laneOfRow(open.drafting.song, this.row), this.row, t, rowY) };
  }

  #move(at: PointerAt): void {
    for (const { x, y } of at.moves) {
      const to = this.#placeAt(x, y + at.rowY - at.y);
      this.#path = drawnOn(this.#path, this.#last, to);
      this.#last = to;
    }
    this.#at = { x: at.x, y: at.rowY };
    const edit = this.#edit(0);
    if (edit) this.stage.current.open.drafting.draft(edit);
  }

  /** The edit it is so far, thinned within a tolerance; null while it has no length. */
  #edit(tolerance: number): (Edit & { kind: 'draw' }) | null {
    const { song } = this.stage.current.open.drafting;
    const [first, last] = [this.#path[0]!, this.#path.at(-1)!];
    if (!(last.t > first.t)) return null;
    const raw = pointsDrawn(song, this.#of, this.#path);
    const law = layerLaw(song, this.#of.control, this.#of.layer);
    const points = tolerance > 0 && law.kind !== 'switch' ? thinnedCurve(raw, law, tolerance).points : raw;
    return { kind: 'draw', pieces: [{ ...this.#of, span: [first.t, last.t], points }] };
  }

  #words(): string {
    const { song } = this.stage.current.open.drafting;
    return layerScale(controlOf(song, this.#of.control), this.#of.layer).print(this.#last.v);
  }

  #keep(): void {
    const { open, dispatch } = this.stage.current;
    const { song } = open.drafting;
    const edit = this.#edit(song.settings.thin);
    if (!edit) return open.drafting.drop();
    const [{ span, points }] = edit.pieces as [(typeof edit.pieces)[number]];
    if (!open.drafting.keep(edit).changed.length) return;
    const kept = points.length < this.#path.length ? `, kept as ${points.length} points` : '';
    dispatch(didSomething(`${lanesWords(song, [this.#of])} drawn over ${(span[1] - span[0]).toFixed(2)} s${kept}.`));
  }

  /** Whatever comes of it, a drawing that was asked for once is over. */
  #over(then: () => void): void {
    then();
    if (store.getState().view.drawing === 'once') this.stage.current.dispatch(drawingSet(null));
  }
}
