import { useEffect, useMemo, useRef, type PointerEvent, type ReactNode, type RefObject } from 'react';
import type Konva from 'konva';
import { Layer, Shape, Stage } from 'react-konva';
import { meterMap, snap } from '@sure-hand/core/time';
import { type LoggedLane } from '@sure-hand/core/edits';
import { controlOf, isSwitch, type Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import { LOOKS } from '../../parts/look.js';
import { useOpenSong } from '../../open/openSong.js';
import { notePicture } from '../../open/probe.js';
import { store, useAppDispatch, useAppSelector } from '../../store/store.js';
import { askedFor, rangeSet, takenInHand } from '../../store/viewSlice.js';
import { freshSpans } from '../../hands/carrying.js';
import { ClipDrag, type ClipPart } from '../../hands/clipDrag.js';
import { HandDrag, SwitchPress } from '../../hands/handDrag.js';
import { CarryDrag, carryHandleAt, carryHandles, drawCarryHandles, type CarryHandle } from './carryHandles.js';
import { drawDraft, handleAt, type ClipHandle } from './clipHandles.js';
import { drawLive, drawNowLine, isHot } from './drawLive.js';
import { drawMeters } from './drawMeters.js';
import { drawRuler } from './drawRuler.js';
import { LaneTiles } from './drawGround.js';
import { drawLanes, drawOldCurves } from './drawLanes.js';
import { RIDE, rowAt, type ChannelRow, type RideRow } from './rideLayout.js';
import { loopFits, runningScale, standingScale, timeAt, wholeScale, type RideScale } from './rideScale.js';

/** Where the canvas is, and what it shows. */
type Props = {
  readonly song: Song;
  readonly rows: readonly RideRow[];
  readonly width: number;
  readonly height: number;
  /** How far the rows are scrolled, read while drawing. */
  readonly scrolled: RefObject<number>;
};

const REDUCED = '(prefers-reduced-motion: reduce)';
const GRIP_WORDS: Record<ClipPart, string> = {
  fadeIn: 'Fade in: drag, or click to type (C)',
  fadeOut: 'Fade out: drag, or click to type (C)',
  gain: 'Clip gain: drag up or down, or click to type (C)',
};
const CARRY_WORDS = {
  start: 'Where the pass began: drag back to carry its value there (Shift+←); Alt keeps it from snapping',
  end: 'Where the pass ended: drag on to carry its value there (Shift+→); Alt keeps it from snapping',
} as const;
/** A drag shorter than this is a click. */
const DRAG_PX = 4;

/** The lanes of Ride: song ground, curves, caps, line. Drawn from the engine and the recorder with every picture, not by React. */
export function RideCanvas({ song, rows, width, height, scrolled }: Props): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const { secPerScreen, isWhole, scheme, range, inHand } = useAppSelector((state) => state.view);
  const layer = useRef<Konva.Layer>(null);
  const tiles = useRef(new LaneTiles());
  const scale = useRef<RideScale>(runningScale(0, width, secPerScreen));
  const page = useRef<Seconds>(0);
  const drag = useRef<HandDrag | SwitchPress | null>(null);
  const clipDrag = useRef<{ drag: ClipDrag; handle: ClipHandle } | null>(null);
  const carryDrag = useRef<CarryDrag | null>(null);
  const sweep = useRef<{ from: Seconds; x: number } | null>(null);
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const look = LOOKS[scheme];
  const ground = useMemo(
    () => ({
      song,
      map,
      rows,
      height: Math.max(height, rows.length ? rows.at(-1)!.top + rows.at(-1)!.height : 0),
      look,
    }),
    [song, map, rows, height, look],
  );

  const draw = (ctx: CanvasRenderingContext2D): void => {
    const position = open.engine.positionAt(performance.now());
    const { pxPerSec } = (scale.current = scaleAt(position));
    const dpr = window.devicePixelRatio || 1;
    tiles.current.show({ ...ground, pxPerSec, peaks: open.peaks, peakCount: open.peaks.size }, dpr);
    const top = RIDE.rulerPx - scrolled.current;
    const laneWidth = width - RIDE.meterPx;
    ctx.save();
    ctx.beginPath();
    ctx.rect(0, RIDE.rulerPx, width, height - RIDE.rulerPx);
    ctx.clip();
    ctx.fillStyle = look.ground;
    ctx.fillRect(0, 0, width, height);
    const place = { songPx: Math.round(scale.current.left * pxPerSec), width: laneWidth, x: RIDE.meterPx, y: top };
    tiles.current.draw(ctx, place);
    ctx.translate(0, top);
    const visible = rows.filter(
      (row): row is ChannelRow =>
        row.kind === 'channel' && row.top + row.height + top > RIDE.rulerPx && row.top + top < height,
    );
    ctx.fillStyle = look.sunken;
    ctx.fillRect(0, -top, RIDE.meterPx, height);
    drawMeters(ctx, visible, look, (key) => open.meters.read(key, open.engine.meterOf(key), performance.now()));
    ctx.beginPath();
    ctx.rect(RIDE.meterPx, -top, laneWidth, height);
    ctx.clip();
    const { recorder } = open.session;
    for (const row of visible) {
      if (!isHot(recorder, row)) continue;
      tiles.current.drawRow(ctx, row, { ...place, y: 0 });
      const isWritten = recorder.roll?.takes.some((take) => take.control === row.control) ?? false;
      const shown = { song: recorder.song, rows: [row], scale: scale.current, look, from: RIDE.meterPx, to: width };
      if (!isWritten) drawLanes(ctx, shown);
    }
    const shaping = clipDrag.current;
    if (shaping) {
      const { row, part } = shaping.handle;
      drawDraft(ctx, { row, part, clip: shaping.drag.draft, scale: scale.current, look });
    }
    drawOldCurves(ctx, { song: recorder.song, rows: visible, lanes: foundByPass(), scale: scale.current, look });
    drawNowLine(ctx, scale.current, look, RIDE.rulerPx - top, height - top);
    drawCarryHandles(ctx, freshHandles(visible), look, scale.current, carryDrag.current);
    drawLive(ctx, {
      recorder,
      heard: open.session.heardSong,
      rows: visible,
      scale: scale.current,
      look,
      position,
      inHand,
      breath: 0.5 + 0.5 * Math.sin(performance.now() / 500),
      top: RIDE.rulerPx - top,
      bottom: height - top,
    });
    ctx.restore();
    const { sections, length, settings } = song;
    const ruler = { look, height: RIDE.rulerPx, map, length, sections, range, bottom: height };
    drawRuler(ctx, scale.current, { ...ruler, loop: settings.loop, punch: settings.punch });
    drawNowLine(ctx, scale.current, look, RIDE.rulerPx, RIDE.rulerPx);
  };

  /** What the last pass found, while its receipt is what is told: it stands faded under what it wrote. */
  const foundByPass = (): readonly LoggedLane[] => {
    const { pass, isPassTold } = store.getState().view;
    return pass?.stands && isPassTold && !open.session.isRolling ? pass.lanes : [];
  };

  /** The ends of what the last pass wrote, while the song stands and shows it. */
  const freshHandles = (among: readonly RideRow[]): CarryHandle[] => {
    const { pass, carries } = store.getState().view;
    if (!pass?.stands || open.session.isMoving || open.comparison.heard) return [];
    const channels = among.filter((row): row is ChannelRow => row.kind === 'channel');
    return carryHandles(channels, scale.current, open.session.recorder.song, freshSpans(pass.receipt, carries));
  };

  const scaleAt = (position: Seconds): RideScale => {
    if (isWhole) return wholeScale(position, width, song.length);
    const stands =
      open.session.isMoving &&
      (loopFits(song.settings.loop, position, secPerScreen) || window.matchMedia(REDUCED).matches || sweep.current);
    const running = runningScale(position, width, secPerScreen);
    if (!stands) {
      page.current = running.left;
      return running;
    }
    const standing = standingScale(position, width, secPerScreen, page.current);
    page.current = standing.left;
    return standing;
  };

  useEffect(() => {
    let frame = 0;
    let drawn = '';
    const tick = (): void => {
      const began = performance.now();
      const position = open.engine.positionAt(began);
      // All channels, also those out of sight: what went over stays marked.
      if (open.session.isMoving)
        for (const { key } of song.channels) open.meters.read(key, open.engine.meterOf(key), began);
      const poised = open.session.recorder.poised.size > 0;
      const state = `${position} ${open.version()} ${scrolled.current} ${String(sweep.current)} ${JSON.stringify(clipDrag.current?.drag.changes)} ${carryDrag.current?.to}`;
      // Nothing moves while the song stands and no hand does: then nothing is drawn, but for meters that still fall.
      if (open.session.isMoving || poised || state !== drawn || open.session.recorder.touched.length || settling())
        // The scene alone: nothing here is hit by Konva, so its second canvas needs no clearing.
        layer.current?.drawScene();
      drawn = state;
      notePicture(performance.now() - began, scale.current.lineX);
      frame = requestAnimationFrame(tick);
    };
    const settling = (): boolean =>
      rows.some((row) => row.kind === 'channel' && open.meters.isFalling(row.channel.key, performance.now()));
    frame = requestAnimationFrame(tick);
    layer.current?.drawScene();
    return () => cancelAnimationFrame(frame);
  });

  const place = (event: PointerEvent): { x: number; row: ChannelRow | null; onRuler: boolean } => {
    const box = event.currentTarget.getBoundingClientRect();
    const x = event.clientX - box.left;
    const y = event.clientY - box.top;
    return { x, row: rowAt(rows, y - RIDE.rulerPx + scrolled.current), onRuler: y < RIDE.rulerPx };
  };
  const timeOf = (event: PointerEvent): Seconds => {
    const { x } = place(event);
    const t = Math.max(0, Math.min(song.length, timeAt(scale.current, x)));
    return event.altKey ? t : snap({ map, sections: song.sections, format: store.getState().view.format }, 'beat', t);
  };

  const grip = (event: PointerEvent): ClipHandle | null => {
    const { x, onRuler } = place(event);
    if (onRuler || Math.abs(x - scale.current.lineX) <= RIDE.grabPx) return null;
    const y = event.clientY - event.currentTarget.getBoundingClientRect().top - RIDE.rulerPx + scrolled.current;
    return handleAt(rows, scale.current, x, y);
  };

  const freshEnd = (event: PointerEvent): CarryHandle | null => {
    const { x, onRuler } = place(event);
    if (onRuler) return null;
    const y = event.clientY - event.currentTarget.getBoundingClientRect().top - RIDE.rulerPx + scrolled.current;
    return carryHandleAt(freshHandles(rows), x, y);
  };

  const down = (event: PointerEvent): void => {
    if (event.button !== 0) return;
    open.engine.wake();
    const { x, row, onRuler } = place(event);
    event.currentTarget.setPointerCapture(event.pointerId);
    if (!onRuler && row && Math.abs(x - scale.current.lineX) <= RIDE.grabPx) {
      dispatch(takenInHand(row.control));
      drag.current = isSwitch(controlOf(song, row.control))
        ? new SwitchPress(open.control, row.control, event.timeStamp)
        : new HandDrag(open.control, row.control, event.clientY, event.timeStamp);
      return;
    }
    if (x < RIDE.meterPx) return open.meters.clear();
    const end = freshEnd(event);
    if (end) {
      dispatch(takenInHand(end.row.control));
      carryDrag.current = new CarryDrag(end, open.session.recorder.song, range);
      return;
    }
    const handle = grip(event);
    if (handle) {
      const { clip, part } = handle;
      const at = { x: event.clientX, y: event.clientY, pxPerSec: scale.current.pxPerSec };
      clipDrag.current = { handle, drag: new ClipDrag({ channel: handle.row.channel.key, clip, part, ...at }) };
      return;
    }
    if (row && !onRuler) dispatch(takenInHand(row.control));
    sweep.current = { from: timeOf(event), x: event.clientX };
  };
  const move = (event: PointerEvent): void => {
    // The browser gathers moves between pictures into one; each keeps its own time.
    const moves = event.nativeEvent.getCoalescedEvents?.() ?? [];
    for (const one of moves.length ? moves : [event.nativeEvent])
      drag.current?.move(one.clientY, one.shiftKey, one.timeStamp);
    clipDrag.current?.drag.move(event.clientX, event.clientY, event.shiftKey);
    carryDrag.current?.move(place(event).x, scale.current, event.altKey);
    if (!drag.current && !sweep.current) showGrip(event);
    const began = sweep.current;
    if (!began || Math.abs(event.clientX - began.x) < DRAG_PX) return;
    const to = timeOf(event);
    if (to !== began.from) dispatch(rangeSet([Math.min(began.from, to), Math.max(began.from, to)]));
  };
  /** Says by the pointer what it could take hold of. */
  const showGrip = (event: PointerEvent): void => {
    if (!(event.currentTarget instanceof HTMLElement)) return;
    const end = carryDrag.current?.handle ?? freshEnd(event);
    const part = end ? undefined : (clipDrag.current?.handle ?? grip(event))?.part;
    const cursor = end ? 'ew-resize' : part === undefined ? '' : part === 'gain' ? 'ns-resize' : 'ew-resize';
    event.currentTarget.style.cursor = cursor;
    event.currentTarget.title = end ? CARRY_WORDS[end.edge] : part === undefined ? '' : GRIP_WORDS[part];
  };
  /** Keeps what a pointer made of a clip; one that never moved asks for the numbers instead. */
  const endClip = (isCancelled: boolean): void => {
    const shaped = clipDrag.current;
    clipDrag.current = null;
    if (!shaped || isCancelled) return;
    const { row, clip } = shaped.handle;
    if (Object.keys(shaped.drag.changes).length) open.control.shapeClip(row.channel.key, clip, shaped.drag.changes);
    else dispatch(askedFor({ what: 'clip', channel: row.channel.key, at: clip.t }));
  };
  useEffect(() => {
    const cancel = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') clipDrag.current = carryDrag.current = null;
    };
    window.addEventListener('keydown', cancel);
    return () => window.removeEventListener('keydown', cancel);
  }, []);
  const up = (event: PointerEvent): void => {
    drag.current?.end(event.timeStamp);
    drag.current = null;
    endClip(event.type === 'pointercancel');
    const carry = event.type === 'pointercancel' ? null : carryDrag.current?.carry;
    carryDrag.current = null;
    if (carry) open.control.carry(carry);
    const began = sweep.current;
    sweep.current = null;
    if (!began || Math.abs(event.clientX - began.x) >= DRAG_PX) return;
    if (place(event).onRuler) void open.control.locate(timeAt(scale.current, place(event).x));
  };

  return (
    <div
      data-testid="lanes"
      className="ride-lanes"
      style={{ width, height }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
    >
      <Stage width={width} height={height} listening={false}>
        <Layer ref={layer} listening={false}>
          <Shape
            listening={false}
            perfectDrawEnabled={false}
            sceneFunc={(context) => draw(context._context as CanvasRenderingContext2D)}
          />
        </Layer>
      </Stage>
    </div>
  );
}
