import { travelIn } from '@sure-hand/core/curve';
import { bentThrough, canBend, type Edit } from '@sure-hand/core/edits';
import { fullName, isSwitch, controlOf } from '@sure-hand/core/song';
import { clamp, lastNotAfter, printDb, valueOf, travelOf, type Seconds } from '@sure-hand/core/units';
import { layerLaw, layerRest, laneOf, isInDb } from '@sure-hand/core/song';
import { liftEdit } from '../../../hands/moving.js';
import { lanesWords, layerOf, togetherWith } from '../../../hands/picking.js';
import { store } from '../../../store/store.js';
import { didSomething, takenInRow } from '../../../store/viewSlice.js';
import { laneOfRow, yOfValue } from '../drawLanes.js';
import { marksOf } from '../pointMarks.js';
import { roomOfThrow, type ChannelRow } from '../rideLayout.js';
import { timeAt } from '../rideScale.js';
import { draftedGesture } from './draftedGesture.js';
import { DONE, type GestureKind, type PointerAt, type StageRef } from './gesture.js';
import { addPointThere, isOnLane, refusalAt } from './mendPoints.js';

/** So near to a curve a pointer has hold of it. */
const REACH_PX = 6;
const DRAG_PX = 3;
const FINE = 0.25;
/** Two clicks on one place within so long are one double click. */
const DOUBLE = { ms: 400, px: 6 } as const;

/** A place on a curve: after which point, at what time; −1 before the first, or where there is none. */
type OnCurve = { readonly index: number; readonly t: Seconds; readonly isInRange: boolean };

/**
 * The curve itself: inside the range a drag lifts what the range holds; else it bends the segment it has hold of, or moves an even one
 * with both its points. Two clicks put a point on it.
 */
export const mendCurve = (stage: StageRef): GestureKind => {
  let clicked = { x: 0, y: 0, atMs: -Infinity };
  const found = (at: PointerAt): OnCurve | null => (isOnLane(stage, at) ? onCurve(stage, at.row, at) : null);
  return {
    hit(at) {
      const place = found(at);
      if (!place || !isOnLane(stage, at)) return null;
      const act = actAt(stage, at.row, place);
      return { cursor: act === 'none' ? 'copy' : 'ns-resize', title: WORDS[act] };
    },
    begin(at) {
      const place = found(at);
      if (!place || !isOnLane(stage, at)) return null;
      const { dispatch, open } = stage.current;
      const { control } = at.row;
      dispatch(takenInRow(at.row));
      const refused = refusalAt(open.drafting.song, control, at);
      if (refused) return refused;
      const isDouble = at.atMs - clicked.atMs < DOUBLE.ms && Math.hypot(at.x - clicked.x, at.y - clicked.y) < DOUBLE.px;
      clicked = isDouble ? { x: 0, y: 0, atMs: -Infinity } : at;
      if (isDouble) {
        addPointThere(stage, marksOf(open.drafting.song, at.row).of, place.t);
        return DONE;
      }
      const act = actAt(stage, at.row, place);
      return act === 'none' ? DONE : draftedGesture(stage, new CurveDrag(stage, at.row, place, act, at));
    },
  };
};

const WORDS = {
  lift: 'Drag up or down: lifts the curve over the range, its ends stay; double click adds a point',
  bend: 'Drag up or down: bends it; double click adds a point',
  even: 'Drag up or down: moves it with both its points; double click adds a point',
  none: 'Double click adds a point (Insert: at the line)',
} as const;

/** What a drag there does. */
function actAt(stage: StageRef, row: ChannelRow, { index, isInRange }: OnCurve): keyof typeof WORDS {
  const { song } = stage.current;
  const { of, columns } = marksOf(song, row);
  if (isSwitch(controlOf(song, row.control))) return 'none';
  if (isInRange) return 'lift';
  if (canBend(song, of, index)) return 'bend';
  return index >= 0 && index + 1 < columns.t.length ? 'even' : 'none';
}

/** Where on its curve a pointer is; null beside it. */
function onCurve(stage: StageRef, row: ChannelRow, at: PointerAt): OnCurve | null {
  const { song, scale, range } = stage.current;
  const { of, columns } = marksOf(song, row);
  const t = timeAt(scale, at.x);
  if (t < 0 || t > song.length) return null;
  const index = lastNotAfter(columns.t, t);
  const law = layerLaw(song, of.control, of.layer);
  // A lane without points follows what it rests at: there too a point can be put, which changes nothing yet.
  const lane = laneOf(song, row.control);
  const v = columns.t.length ? valueOf(law, travelIn(columns, index, t)) : layerRest(lane, of.layer);
  const y = yOfValue(song, laneOfRow(song, row), t, v);
  if (Math.abs(y - at.rowY) > REACH_PX) return null;
  return { index, t, isInRange: range !== null && t >= range[0] && t < range[1] };
}

/** A curve in a hand, up and down. */
class CurveDrag {
  #edit: Edit | null = null;
  #travel = 0;
  last: { readonly x: number; readonly y: number };
  words = '';

  constructor(
    readonly stage: StageRef,
    readonly row: ChannelRow,
    readonly place: OnCurve,
    readonly act: 'lift' | 'bend' | 'even',
    readonly from: PointerAt,
  ) {
    this.last = { x: from.x, y: from.rowY };
  }

  move(at: PointerAt): void {
    if (!this.#edit && Math.abs(at.rowY - this.from.rowY) < DRAG_PX) return;
    const { open } = this.stage.current;
    this.#travel -= ((at.isFine ? FINE : 1) * (at.rowY - this.last.y)) / roomOfThrow(this.row);
    this.last = { x: at.x, y: at.rowY };
    this.#edit = this.#editNow();
    open.drafting.draft(this.#edit);
    this.words = this.#wordsNow();
  }

  #editNow(): Edit {
    const { open, range } = this.stage.current;
    const { song } = open.drafting;
    const { chosen, liftEdge } = store.getState().view;
    const { of, columns } = marksOf(song, this.row);
    const { control, layer } = of;
    const { index, t } = this.place;
    const travel = clamp(this.#travel, -1, 1);
    if (this.act === 'lift') {
      const lanes = togetherWith(control, chosen).map((id) => layerOf(song, id));
      return liftEdit(song, lanes, range!, { travel, edge: liftEdge })!;
    }
    if (this.act === 'bend') return bentThrough(song, of, index, t, travelIn(columns, index, t) + travel);
    const times = [columns.t[index]!, columns.t[index + 1]!];
    return { kind: 'move', controls: [control], points: { [control]: times }, by: { t: 0, travel }, layer };
  }

  #wordsNow(): string {
    const { song } = this.stage.current.open.drafting;
    const { of, columns } = marksOf(song, this.row);
    const law = layerLaw(song, of.control, of.layer);
    const { index, t } = this.place;
    const rest = layerRest(laneOf(song, of.control), of.layer);
    const from = columns.t.length ? travelIn(columns, index, t) : travelOf(law, rest);
    if (this.act === 'bend' && this.#edit?.kind === 'points') return `bend ${this.#edit.add.bendOf(0).toFixed(2)}`;
    const [was, is] = [valueOf(law, from), valueOf(law, clamp(from + this.#travel, 0, 1))];
    const isDb = isInDb(controlOf(song, of.control));
    if (isDb) return `${printDb(is - was, true)} → ${printDb(is, of.layer === 'trim')}`;
    return `${controlOf(song, of.control).scale.print(valueOf(law, travelOf(law, was)))} → ${controlOf(song, of.control).scale.print(is)}`;
  }

  end(): void {
    if (!this.#edit) return;
    const { dispatch, open } = this.stage.current;
    const { changed, song, refused } = open.drafting.keep(this.#edit);
    if (!changed.length) return;
    const what = { lift: 'lifted over the range', bend: 'bent', even: 'moved between two points' }[this.act];
    // The act says what it did; what it left alone is said by itself.
    const lanes = changed.length + refused.length > 1 ? changed.map((id) => layerOf(song, id)) : [];
    const name = lanes.length > 1 ? lanesWords(song, lanes) : fullName(song, this.row.control);
    dispatch(didSomething(`${name} ${what}: ${this.words}.`));
  }
}
