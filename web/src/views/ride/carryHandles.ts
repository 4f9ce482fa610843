import { valueArriving, valueAt } from '@sure-hand/core/curve';
import { guardOn, laneOf, layerLaw, layerPoints, layerRest, type Song } from '@sure-hand/core/song';
import { clamp, type Seconds } from '@sure-hand/core/units';
import type { Look } from '../../parts/look.js';
import { carryOf, carryStops, endOf, snappedTo, type Carry, type FreshSpan } from '../../hands/carrying.js';
import { laneOfRow, yOfValue } from './drawLanes.js';
import { RIDE, type ChannelRow } from './rideLayout.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';

/** The end or the beginning of a fresh span, where it can be taken hold of and carried on. */
export type CarryHandle = {
  readonly row: ChannelRow;
  readonly fresh: FreshSpan;
  readonly edge: 'start' | 'end';
  readonly t: Seconds;
  readonly x: number;
  readonly y: number;
};

const GRIP = { width: 6, height: 20, reachPx: 8, reachUpPx: 14, snapPx: 8 } as const;

/** The handles of the rows whose front lane the last pass wrote; none of what is safe or parked, as it cannot be carried. */
export function carryHandles(
  rows: readonly ChannelRow[],
  scale: RideScale,
  song: Song,
  spans: readonly FreshSpan[],
): CarryHandle[] {
  return rows.flatMap((row) =>
    spans
      .filter(({ control }) => control === row.control && guardOn(song, control) === null)
      .flatMap((fresh): CarryHandle[] => {
        const handle = (edge: 'start' | 'end'): CarryHandle => {
          const t = edge === 'end' ? endOf(fresh) : fresh.span[0];
          const y = yOfValue(song, { ...laneOfRow(song, row), layer: fresh.layer }, t, valueAtEdge(song, fresh, edge));
          const x = besideCap(scale, xOf(scale, t), edge);
          return { row, fresh, edge, t, x, y: clamp(y, row.top + 8, row.top + row.height - 8) };
        };
        return [handle('start'), handle('end')].filter(({ x }) => x > xOf(scale, scale.left) && x < scale.width);
      }),
  );
}

/** The strip round the line is the cap's: an edge that stands in it has its handle beside, as after every stop. */
function besideCap(scale: RideScale, x: number, edge: 'start' | 'end'): number {
  const clear = RIDE.grabPx + GRIP.reachPx + 2;
  if (Math.abs(x - scale.lineX) > clear) return x;
  return scale.lineX + (edge === 'end' ? clear : -clear);
}

/** The value that carrying from an edge holds: what the span begins, or ends, with. */
function valueAtEdge(song: Song, fresh: FreshSpan, edge: 'start' | 'end'): number {
  const { control, layer, span } = fresh;
  const lane = laneOf(song, control);
  const law = layerLaw(song, control, layer);
  const read = edge === 'end' ? valueArriving : valueAt;
  return read(layerPoints(lane, layer), law, layerRest(lane, layer), edge === 'end' ? endOf(fresh) : span[0]);
}

/** The handle under the pointer; null where there is none. */
export function carryHandleAt(handles: readonly CarryHandle[], x: number, y: number): CarryHandle | null {
  const near = handles.filter((one) => Math.abs(one.x - x) <= GRIP.reachPx && Math.abs(one.y - y) <= GRIP.reachUpPx);
  return near.sort((a, b) => Math.abs(a.x - x) - Math.abs(b.x - x))[0] ?? null;
}

/** An end of a span in a pointer: where it is carried to, snapping unless the pointer says otherwise. */
export class CarryDrag {
  #to: Seconds;

  constructor(
    readonly handle: CarryHandle,
    readonly song: Song,
    readonly range: readonly [Seconds, Seconds] | null,
  ) {
    this.#to = handle.t;
  }

  move(x: number, scale: RideScale, isFree: boolean): void {
    const { fresh, edge, t } = this.handle;
    const at = clamp(timeAt(scale, x), 0, this.song.length);
    const to = isFree ? at : snappedTo(carryStops(this.song, fresh, this.range), at, GRIP.snapPx / scale.pxPerSec);
    this.#to = edge === 'end' ? Math.max(t, to) : Math.min(t, to);
  }

  get to(): Seconds {
    return this.#to;
  }

  /** What letting go of it does; null where it was carried nowhere. */
  get carry(): Carry | null {
    const { fresh, edge, t } = this.handle;
    return this.#to === t ? null : carryOf(this.song, fresh, edge, this.#to);
  }
}

/** Draws the handles: small upright grips on the ends of what was just written. */
export function drawCarryHandles(
  ctx: CanvasRenderingContext2D,
  handles: readonly CarryHandle[],
  look: Look,
  scale: RideScale,
): void {
  ctx.save();
  ctx.lineWidth = 1.5;
  for (const { x, y, t } of handles) {
    ctx.strokeStyle = look.coral;
    ctx.beginPath();
    ctx.moveTo(xOf(scale, t), y);
    ctx.lineTo(x, y);
    ctx.stroke();
    ctx.beginPath();
    ctx.roundRect(x - GRIP.width / 2, y - GRIP.height / 2, GRIP.width, GRIP.height, 3);
    ctx.fillStyle = look.ground;
    ctx.fill();
    ctx.strokeStyle = look.coral;
    ctx.stroke();
  }
  ctx.restore();
}

/** Draws an end that is being carried, and what it is drawn over. */
export function drawCarryDrag(ctx: CanvasRenderingContext2D, look: Look, scale: RideScale, drag: CarryDrag): void {
  const { t, y } = drag.handle;
  const to = xOf(scale, drag.to);
  ctx.save();
  ctx.strokeStyle = look.coral;
  ctx.lineWidth = 3;
  ctx.beginPath();
  ctx.moveTo(xOf(scale, t), y);
  ctx.lineTo(to, y);
  ctx.stroke();
  ctx.fillStyle = look.coral;
  ctx.beginPath();
  ctx.roundRect(to - GRIP.width / 2, y - GRIP.height / 2, GRIP.width, GRIP.height, 3);
  ctx.fill();
  ctx.restore();
}
