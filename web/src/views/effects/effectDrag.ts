import { controlOf, controlsOf, isInDb, layerLaw, type ControlId } from '@sure-hand/core/song';
import { clamp, travelOf } from '@sure-hand/core/units';
import { HAND_PX } from '../../hands/songControl.js';
import type { OpenSong } from '../../open/openSong.js';
import type { Axis, EffectHandle } from './effectShape.js';

/** Where a pointer is in a picture, in pixels from its left and from its top. */
export type PicturePoint = { readonly x: number; readonly y: number; readonly atMs: number };
type Keys = { readonly isFine: boolean; readonly isThird: boolean };
/** Shift: so much finer. */
const FINE = HAND_PX.coarse / HAND_PX.fine;

/**
 * One parameter under a hand that drags: it goes on from where it was found, along its axis of the picture. The cap stands where base and
 * trim are together; the hand gives one of the two, which goes as far in dB as the cap does.
 */
class Ridden {
  /** Where the cap stands as this stretch of the drag begins, and how far along its axis it has gone since. */
  #from: number;
  #by = 0;
  #cap: number;
  readonly #found: number;
  /** What the hand has, in the unit of its layer, as it is found. */
  readonly #own: number;

  constructor(
    readonly open: Pick<OpenSong, 'control' | 'session'>,
    readonly id: ControlId,
    readonly axis: Axis,
    found: number,
  ) {
    const { recorder } = open.session;
    this.#found = this.#cap = this.#from = found;
    // Of what has no trim both are one and the same.
    this.#own = isInDb(controlOf(recorder.song, id)) ? recorder.capAt(id, open.control.position) : found;
  }

  /** Begins anew from where it is. */
  rebase(): void {
    this.#from = this.#cap;
    this.#by = 0;
  }

  /** Goes so far along its axis from where it began; a pointer that goes only the other way does not move it. */
  go(by: number, atMs: number): void {
    if (by === this.#by) return;
    this.#by = by;
    this.#cap = by === 0 ? this.#from : this.axis.to(this.axis.of(this.#from) + by);
    const { recorder } = this.open.session;
    // Taken out from under the hand it is nothing any more.
    if (!controlsOf(recorder.song).has(this.id)) return;
    const law = layerLaw(recorder.song, this.id, recorder.layerGiven(this.id));
    const to = this.#own === this.#found ? this.#cap : this.#own + (this.#cap - this.#found);
    this.open.control.moveTo(this.id, clamp(travelOf(law, to), 0, 1), atMs);
  }
}

/** A hand on a cap of an effect's picture: it moves two parameters at once, each a lane, and with Alt or a second finger a third. */
export class EffectDrag {
  #keys: Keys = { isFine: false, isThird: false };
  #from: PicturePoint;
  #last: PicturePoint;
  /** Travel of the third, and where a second finger came down. */
  #third: { readonly id: ControlId; from: number; at: number } | null = null;
  #finger: { readonly pointer: number; readonly fromY: number } | null = null;
  readonly #across: Ridden | null;
  readonly #up: Ridden | null;
  readonly #touched: ControlId[] = [];

  constructor(
    readonly open: Pick<OpenSong, 'control' | 'session'>,
    readonly handle: EffectHandle,
    /** The control of a parameter, and where its cap stands. */
    readonly idOf: (param: string) => ControlId,
    valueOf: (param: string) => number,
    readonly size: { readonly width: number; readonly height: number },
    at: PicturePoint,
  ) {
    this.#from = this.#last = at;
    const ridden = (axis: Axis | null): Ridden | null => {
      if (!axis) return null;
      const id = idOf(axis.param);
      const value = valueOf(axis.param);
      this.#touch(id, at.atMs);
      return new Ridden(open, id, axis, value);
    };
    this.#across = ridden(handle.across);
    this.#up = ridden(handle.up);
  }

  #touch(id: ControlId, atMs: number): void {
    this.open.control.touch(id, atMs);
    this.#touched.push(id);
  }

  move(at: PicturePoint, keys: Keys): void {
    if (keys.isFine !== this.#keys.isFine || keys.isThird !== this.#keys.isThird) this.#turn(this.#last, keys);
    this.#last = at;
    const share = keys.isFine ? FINE : 1;
    const [right, up] = [at.x - this.#from.x, this.#from.y - at.y].map((px) => px * share) as [number, number];
    if (keys.isThird) return this.#moveThird(up, at.atMs);
    this.#across?.go(right / this.size.width, at.atMs);
    this.#up?.go(up / this.size.height, at.atMs);
  }

  /** Other keys are held from here on: what is moved goes on from where it is. */
  #turn(at: PicturePoint, keys: Keys): void {
    this.#keys = keys;
    this.#from = at;
    this.#across?.rebase();
    this.#up?.rebase();
    if (keys.isThird) this.#takeThird(at.atMs);
  }

  #takeThird(atMs: number): void {
    const { third } = this.handle;
    if (third === null) return;
    const id = this.idOf(third);
    if (!controlsOf(this.open.session.recorder.song).has(id)) return;
    if (!this.#third) this.#touch(id, atMs);
    const travel = this.open.control.travelNow(id);
    this.#third = { id, from: travel, at: travel };
  }

  #moveThird(upPx: number, atMs: number): void {
    const third = this.#third;
    if (!third) return;
    const to = clamp(third.from + upPx / HAND_PX.coarse, 0, 1);
    if (to === third.at) return;
    third.at = to;
    this.open.control.moveTo(third.id, to, atMs);
  }

  /** A second finger comes down anywhere in the picture. */
  second(pointer: number, at: PicturePoint): void {
    if (this.#finger) return;
    this.#finger = { pointer, fromY: at.y };
    this.#takeThird(at.atMs);
  }

  moveSecond(pointer: number, at: PicturePoint): void {
    if (this.#finger?.pointer === pointer) this.#moveThird(this.#finger.fromY - at.y, at.atMs);
  }

  endSecond(pointer: number): void {
    if (this.#finger?.pointer === pointer) this.#finger = null;
  }

  end(atMs = this.#last.atMs): void {
    for (const id of this.#touched) this.open.control.release(id, atMs);
    this.#touched.length = 0;
  }
}
