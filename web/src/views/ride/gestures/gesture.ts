import type { Song } from '@sure-hand/core/song';
import type { MeterMap } from '@sure-hand/core/time';
import type { Range } from '@sure-hand/core/curve';
import type { OpenSong } from '../../../open/openSong.js';
import type { Look } from '../../../parts/look.js';
import type { AppDispatch } from '../../../store/store.js';
import type { CarryHandle } from '../carryHandles.js';
import type { ChannelRow, RideRow } from '../rideLayout.js';
import type { RideScale } from '../rideScale.js';

/** Where a pointer was between two pictures: the browser gathers such moves into one, each keeps its own time. */
export type PointerMove = { readonly x: number; readonly y: number; readonly isFine: boolean; readonly atMs: number };

/** Where a pointer is on the lanes: in pixels from the canvas's corner, its height also from the top of the rows. */
export type PointerAt = {
  readonly id: number;
  readonly x: number;
  readonly y: number;
  readonly rowY: number;
  readonly row: ChannelRow | null;
  readonly onRuler: boolean;
  /** Shift makes what is dragged finer, Alt keeps it from snapping. */
  readonly isFine: boolean;
  readonly isFree: boolean;
  /** Ctrl keeps a drag to one way, and takes one more to what is picked. */
  readonly isLocked: boolean;
  readonly atMs: number;
  readonly moves: readonly PointerMove[];
};

/** What gestures act on, as it is at the moment: the lanes as they stand on screen, and the song that is open. */
export type LaneStage = {
  readonly open: OpenSong;
  readonly dispatch: AppDispatch;
  readonly song: Song;
  readonly map: MeterMap;
  readonly rows: readonly RideRow[];
  readonly range: Range | null;
  readonly scale: RideScale;
  /** The ends of what the last pass wrote, where they can be taken hold of. */
  readonly freshHandles: () => CarryHandle[];
};
export type StageRef = { readonly current: LaneStage };

/** What a pointer says where it could take hold of something. */
export type Hover = { readonly cursor: string; readonly title: string };

/** What a pointer has hold of, from where it went down to where it comes up. */
export type Gesture = {
  move(at: PointerAt): void;
  end(at: PointerAt): void;
  /** The pointer was taken away: by the system, or since the lanes are not looked at any more. */
  cancel(atMs: number): void;
  /** Escape: what was begun is given up. Where this is not there, Escape leaves it alone. */
  readonly drop?: () => void;
  readonly draw?: (ctx: CanvasRenderingContext2D, scale: RideScale, look: Look) => void;
  /** Drawn under the curves rather than over them. */
  readonly isUnder?: true;
  /** While it lasts the picture does not run under it. */
  readonly holdsPicture?: true;
  /** What its picture depends on: it is drawn anew where that changes. */
  readonly state?: () => string;
};

/** A kind of gesture: where it can begin, and what it does then. */
export type GestureKind = {
  hit(at: PointerAt): Hover | null;
  begin(at: PointerAt): Gesture | null;
};

/** A gesture that does all it does as it begins. */
export const DONE: Gesture = { move: () => undefined, end: () => undefined, cancel: () => undefined };

/** The pointers that are down, each with what it took hold of: the first kind of gesture that can begin there. */
export class HeldGestures {
  readonly #held = new Map<number, Gesture>();

  constructor(readonly kinds: readonly GestureKind[]) {}

  down(at: PointerAt): void {
    // Nobody said that this pointer had come up: what it had hold of is let go of first.
    this.#cancel(at.id, at.atMs);
    for (const kind of this.kinds) {
      const gesture = kind.begin(at);
      if (!gesture) continue;
      this.#held.set(at.id, gesture);
      return;
    }
  }

  move(at: PointerAt): void {
    this.#held.get(at.id)?.move(at);
  }

  up(at: PointerAt, isCancelled: boolean): void {
    if (isCancelled) return this.#cancel(at.id, at.atMs);
    const gesture = this.#held.get(at.id);
    this.#held.delete(at.id);
    gesture?.end(at);
  }

  /** The lanes are left: no pointer has hold of anything there any more. */
  leave(atMs: number): void {
    for (const id of [...this.#held.keys()]) this.#cancel(id, atMs);
  }

  #cancel(id: number, atMs: number): void {
    const gesture = this.#held.get(id);
    this.#held.delete(id);
    gesture?.cancel(atMs);
  }

  /** Gives up what can be given up; whether there was anything. */
  drop(): boolean {
    const given = [...this.#held].filter(([, gesture]) => gesture.drop);
    for (const [id, gesture] of given) {
      this.#held.delete(id);
      gesture.drop!();
    }
    return given.length > 0;
  }

  /** What a pointer that holds nothing could take hold of; null where it holds something, or there is nothing. */
  hover(at: PointerAt): Hover | null {
    for (const kind of this.kinds) {
      const hover = kind.hit(at);
      if (hover) return hover;
    }
    return null;
  }

  holds(id: number): boolean {
    return this.#held.has(id);
  }

  get holdsPicture(): boolean {
    return [...this.#held.values()].some((gesture) => gesture.holdsPicture);
  }

  /** What the pictures of all of them depend on. */
  get state(): string {
    return [...this.#held.values()].map((gesture) => gesture.state?.() ?? '').join(' ');
  }

  draw(ctx: CanvasRenderingContext2D, scale: RideScale, look: Look, under: boolean): void {
    for (const gesture of this.#held.values())
      if ((gesture.isUnder ?? false) === under) gesture.draw?.(ctx, scale, look);
  }
}
