import { useEffect, useMemo, useRef, type PointerEvent, type ReactNode, type RefObject } from 'react';
import type Konva from 'konva';
import { Layer, Shape, Stage } from 'react-konva';
import { meterMap } from '@sure-hand/core/time';
import { type LoggedLane } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import { LOOKS } from '../../parts/look.js';
import { useOpenSong } from '../../open/openSong.js';
import { notePicture } from '../../open/probe.js';
import { store, useAppDispatch, useAppSelector } from '../../store/store.js';
import { freshSpans } from '../../hands/carrying.js';
import { carryHandles, drawCarryHandles, type CarryHandle } from './carryHandles.js';
import { drawLive, drawNowLine, isHot } from './drawLive.js';
import { drawMeters } from './drawMeters.js';
import { drawRuler } from './drawRuler.js';
import { LaneTiles } from './drawGround.js';
import { drawLanes, drawOldCurves } from './drawLanes.js';
import { rideGestures, type LaneStage, type PointerAt, type StageRef } from './gestures/index.js';
import { RIDE, rowAt, type ChannelRow, type RideRow } from './rideLayout.js';
import { loopFits, runningScale, standingScale, wholeScale, type RideScale } from './rideScale.js';

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
/** The lanes of Ride: song ground, curves, caps, line. Drawn from the engine and the recorder with every picture, not by React. */
export function RideCanvas({ song, rows, width, height, scrolled }: Props): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const { secPerScreen, isWhole, scheme, range, inHand } = useAppSelector((state) => state.view);
  const layer = useRef<Konva.Layer>(null);
  const tiles = useRef(new LaneTiles());
  const scale = useRef<RideScale>(runningScale(0, width, secPerScreen));
  const page = useRef<Seconds>(0);
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const stage = useRef<LaneStage | null>(null);
  const held = useMemo(() => rideGestures(stage as StageRef), []);
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
    held.draw(ctx, scale.current, look, true);
    drawOldCurves(ctx, { song: recorder.song, rows: visible, lanes: foundByPass(), scale: scale.current, look });
    drawNowLine(ctx, scale.current, look, RIDE.rulerPx - top, height - top);
    drawCarryHandles(ctx, freshHandles(visible), look, scale.current);
    held.draw(ctx, scale.current, look, false);
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
      (loopFits(song.settings.loop, position, secPerScreen) || window.matchMedia(REDUCED).matches || held.holdsPicture);
    const running = runningScale(position, width, secPerScreen);
    if (!stands) {
      page.current = running.left;
      return running;
    }
    const standing = standingScale(position, width, secPerScreen, page.current);
    page.current = standing.left;
    return standing;
  };

  // What gestures act on is always what is on screen now.
  stage.current = {
    open,
    dispatch,
    song,
    map,
    rows,
    range,
    get scale() {
      return scale.current;
    },
    freshHandles: () => freshHandles(rows),
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
      const state = `${position} ${open.version()} ${scrolled.current} ${held.state}`;
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

  const at = (event: PointerEvent): PointerAt => {
    const box = event.currentTarget.getBoundingClientRect();
    const [x, y] = [event.clientX - box.left, event.clientY - box.top];
    const rowY = y - RIDE.rulerPx + scrolled.current;
    const moves = event.nativeEvent.getCoalescedEvents?.() ?? [];
    return {
      id: event.pointerId,
      x,
      y,
      rowY,
      row: rowAt(rows, rowY),
      onRuler: y < RIDE.rulerPx,
      isFine: event.shiftKey,
      isFree: event.altKey,
      atMs: event.timeStamp,
      moves: (moves.length ? moves : [event.nativeEvent]).map((one) => ({
        y: one.clientY - box.top,
        isFine: one.shiftKey,
        atMs: one.timeStamp,
      })),
    };
  };
  const down = (event: PointerEvent): void => {
    if (event.button !== 0) return;
    open.engine.wake();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.down(at(event));
  };
  const move = (event: PointerEvent): void => {
    if (held.holds(event.pointerId)) return held.move(at(event));
    if (!(event.currentTarget instanceof HTMLElement)) return;
    // Says by the pointer what it could take hold of.
    const hover = held.hover(at(event));
    event.currentTarget.style.cursor = hover?.cursor ?? '';
    event.currentTarget.title = hover?.title ?? '';
  };
  const up = (event: PointerEvent): void => held.up(at(event), event.type === 'pointercancel');
  useEffect(() => {
    const cancel = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') held.drop();
    };
    window.addEventListener('keydown', cancel);
    return () => {
      window.removeEventListener('keydown', cancel);
      // A view that goes by a key takes no hand along that is still down.
      held.leave(performance.now());
    };
  }, [held]);

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
