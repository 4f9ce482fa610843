import { useEffect, useMemo, useRef, type PointerEvent, type ReactNode } from 'react';
import { Tooltip } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import type { Song } from '@sure-hand/core/song';
import { meterMap, snap } from '@sure-hand/core/time';
import { LOOKS } from '../../app/look.js';
import { useHands } from '../../app/openSong.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { rangeSet } from '../../app/viewSlice.js';

const DENSITY_PX = 24;
const BUCKET_PX = 4;
const DRAG_PX = 4;

/** How many points stand in each bucket of the song, over all lanes. */
export function pointDensity(lanes: Song['lanes'], length: number, buckets: number): Uint32Array {
  const counts = new Uint32Array(buckets);
  for (const lane of Object.values(lanes))
    for (const { t } of [...lane.points, ...lane.trim])
      counts[Math.max(0, Math.min(buckets - 1, Math.floor((t / length) * buckets)))]!++;
  return counts;
}

/** The whole song, zoomed out: its sections, where curves are dense, the range and loop, the line. */
export function SongStrip({ song }: { song: Song }): ReactNode {
  const { engine, control } = useHands();
  const dispatch = useAppDispatch();
  const { range, scheme, format } = useAppSelector((state) => state.view);
  const { ref, width } = useElementSize();
  const canvas = useRef<HTMLCanvasElement>(null);
  const line = useRef<HTMLDivElement>(null);
  const began = useRef<{ t: number; x: number } | null>(null);
  const look = LOOKS[scheme];
  const { lanes } = song;
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  useEffect(() => {
    let frame = 0;
    const tick = (): void => {
      const share = engine.positionAt(performance.now()) / song.length;
      if (line.current) line.current.style.transform = `translateX(${share * width}px)`;
      frame = requestAnimationFrame(tick);
    };
    tick();
    return () => cancelAnimationFrame(frame);
  }, [engine, song.length, width]);
  useEffect(() => {
    const ctx = canvas.current?.getContext('2d');
    if (!ctx || !width) return;
    ctx.clearRect(0, 0, width, DENSITY_PX);
    ctx.fillStyle = look.bone;
    const counts = pointDensity(lanes, song.length, Math.ceil(width / BUCKET_PX));
    const most = Math.max(4, ...counts);
    counts.forEach((count, i) => {
      if (!count) return;
      const height = 3 + (DENSITY_PX - 5) * Math.sqrt(count / most);
      ctx.globalAlpha = 0.65;
      ctx.fillRect(i * BUCKET_PX, DENSITY_PX - height, BUCKET_PX - 1, height);
    });
  }, [lanes, song.length, width, look]);
  const timeOf = (event: PointerEvent): number => {
    const box = event.currentTarget.getBoundingClientRect();
    return Math.max(0, Math.min(song.length, ((event.clientX - box.left) / width) * song.length));
  };
  const snapped = (t: number): number => snap({ map, sections: song.sections, format }, 'bar', t);
  const per = (t: number): string => `${(100 * t) / song.length}%`;
  return (
    <div className="song-strip" ref={ref}>
      <div className="strip-sections">
        {song.sections.map(({ t, name }, i) => {
          const end = song.sections[i + 1]?.t ?? song.length;
          return (
            <Tooltip key={`${t} ${name}`} label={`${name}: click to go there, with Shift to make it the range`}>
              <button
                type="button"
                className="section"
                style={{ left: per(t), width: per(end - t) }}
                onClick={(event) => (event.shiftKey ? dispatch(rangeSet([t, end])) : void control.locate(t))}
              >
                {name}
              </button>
            </Tooltip>
          );
        })}
      </div>
      <div
        className="strip-density"
        data-testid="strip"
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          began.current = { t: timeOf(event), x: event.clientX };
        }}
        onPointerMove={(event) => {
          if (!began.current || Math.abs(event.clientX - began.current.x) < DRAG_PX) return;
          const [a, b] = [snapped(began.current.t), snapped(timeOf(event))];
          if (a !== b) dispatch(rangeSet([Math.min(a, b), Math.max(a, b)]));
        }}
        onPointerUp={(event) => {
          if (began.current && Math.abs(event.clientX - began.current.x) < DRAG_PX) void control.locate(timeOf(event));
          began.current = null;
        }}
      >
        <canvas ref={canvas} width={Math.max(1, width)} height={DENSITY_PX} />
        {range && (
          <div
            className={song.settings.loop ? 'strip-range is-looping' : 'strip-range'}
            style={{ left: per(range[0]), width: per(range[1] - range[0]) }}
          />
        )}
      </div>
      <div className="strip-line" ref={line} />
    </div>
  );
}
