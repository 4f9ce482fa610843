import type { Curve, Range } from '@sure-hand/core/curve';
import {
  memo,
  useEffect,
  useMemo,
  useRef,
  useState,
  type MouseEvent,
  type PointerEvent,
  type ReactNode,
  type RefObject,
} from 'react';
import { ActionIcon, Menu, Text, Tooltip } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { IconPlus } from '@tabler/icons-react';
import { channelOf, type Note, type Section, type Song } from '@sure-hand/core/song';
import { meterMap, snap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { LOOKS } from '../../parts/look.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { Tip } from '../../parts/Tip.js';
import { usePointerDrag } from '../../parts/usePointerDrag.js';
import { whenIdle } from '../../store/whenIdle.js';
import { store, useAppDispatch, useAppSelector, useOfSong, useViewParts } from '../../store/store.js';
import { askedFor, rangeSet, takenInHand } from '../../store/viewSlice.js';
import type { Asked } from '../../hands/asked.js';
import { askNote, askSection } from '../../hands/commandScene.js';
import { frontOf } from './rideLayout.js';

const DENSITY_PX = 24;
const BUCKET_PX = 4;
const DRAG_PX = 4;
const DENSITY_WITHIN_MS = 300;

/** How many points of a curve stand in each bucket, as it was counted last: a pass changes a few curves of hundreds. */
const counted = new WeakMap<Curve, { readonly length: number; readonly counts: Uint32Array }>();

function countsOf(curve: Curve, length: number, buckets: number): Uint32Array {
  const known = counted.get(curve);
  if (known?.length === length && known.counts.length === buckets) return known.counts;
  const counts = new Uint32Array(buckets);
  const { t } = curve;
  for (let i = 0; i < t.length; i++)
    counts[Math.max(0, Math.min(buckets - 1, Math.floor((t[i]! / length) * buckets)))]!++;
  counted.set(curve, { length, counts });
  return counts;
}

/** How many points stand in each bucket of the song, over all lanes. */
function pointDensity(lanes: Song['lanes'], length: number, buckets: number): Uint32Array {
  const all = new Uint32Array(buckets);
  for (const { points, trim } of Object.values(lanes))
    for (const curve of [points, trim]) {
      if (!curve.length) continue;
      const counts = countsOf(curve, length, buckets);
      for (let i = 0; i < buckets; i++) all[i]! += counts[i]!;
    }
  return all;
}

/** What stands on the strip, besides where curves are dense. */
type StripSong = Pick<Song, 'sections' | 'notes' | 'length' | 'channels'>;

/** Where things lie on the strip, and what a drag over it snaps to. */
type StripScale = {
  readonly per: (t: number) => string;
  readonly timeAt: (clientX: number) => number;
  readonly snapped: (t: number, isFree: boolean) => number;
};

/** What comes of carrying a mark along the strip: a click where it hardly moves, else a move once it is let go. */
type Carried<T> = {
  readonly scale: StripScale;
  readonly mark: T;
  readonly click: () => void;
  readonly move: (t: number) => void;
};

/** A mark that a pointer carries: where it stands meanwhile, null while it is not carried; and what carries it. */
function useCarried<T extends { readonly t: number }>({
  scale,
  mark,
  click,
  move,
}: Carried<T>): readonly [number | null, ReturnType<typeof usePointerDrag>] {
  const [carried, carry] = useState<number | null>(null);
  const at = (event: PointerEvent): number => scale.snapped(scale.timeAt(event.clientX), event.altKey);
  const drag = usePointerDrag((begun) => {
    begun.stopPropagation();
    let to: number | null = null;
    return {
      move: (event) => {
        if (to !== null || Math.abs(event.clientX - begun.clientX) >= DRAG_PX) carry((to = at(event)));
      },
      end: () => {
        carry(null);
        if (to === null) click();
        else if (to !== mark.t) move(to);
      },
      giveUp: () => carry(null),
    };
  });
  return [carried, drag];
}

const Sections = ({ song, scale }: { song: StripSong; scale: StripScale }): ReactNode => (
  <div className="strip-sections">
    {song.sections.map((mark, i) => (
      <SectionMark
        key={`${mark.t} ${mark.name}`}
        mark={mark}
        end={song.sections[i + 1]?.t ?? song.length}
        scale={scale}
      />
    ))}
  </div>
);

type MarkProps<T> = { readonly mark: T; readonly end: Seconds; readonly scale: StripScale };

function SectionMark({ mark, end, scale }: MarkProps<Section>): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const go = (): void => void control.locate(mark.t);
  const [carried, drag] = useCarried({
    ...{ scale, mark },
    click: go,
    move: (t) => control.makeEdit({ kind: 'mark', list: 'sections', remove: mark, add: { ...mark, t } }),
  });
  const ask = (event: MouseEvent): void => {
    event.preventDefault();
    dispatch(askedFor({ what: 'section', mark, t: mark.t }));
  };
  const from = carried ?? mark.t;
  return (
    <Tip
      position="bottom-start"
      multiline
      maw={300}
      label={`${mark.name}. Click: go there. Shift+click: make it the range. Double-click: name or remove it. Drag its edge: move it.`}
    >
      <button
        type="button"
        className="section"
        style={{ left: scale.per(from), width: scale.per(Math.max(0, end - from)) }}
        onClick={(event) => (event.shiftKey ? dispatch(rangeSet([mark.t, end])) : go())}
        onDoubleClick={ask}
        onContextMenu={ask}
      >
        <span className="section-edge" {...drag} onClick={(event) => event.stopPropagation()} />
        {mark.name}
      </button>
    </Tip>
  );
}

/** What is noted at places of the song, each with as much of its text as there is room for. */
function Notes({ song, scale }: { song: StripSong; scale: StripScale }): ReactNode {
  if (!song.notes.length) return null;
  return (
    <div className="strip-notes" aria-label="Notes" role="group">
      {song.notes.map((mark, i) => (
        <NotePin
          key={`${mark.t} ${mark.text}`}
          mark={mark}
          end={song.notes[i + 1]?.t ?? song.length}
          scale={scale}
          about={mark.channel ? channelOf(song, mark.channel)?.name : undefined}
        />
      ))}
    </div>
  );
}

function NotePin({ mark, end, scale, about }: MarkProps<Note> & { readonly about: string | undefined }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const go = (): void => {
    void control.locate(mark.t);
    // The channel as it is looked at: the lane in front of it stays in front.
    if (mark.channel && about !== undefined) dispatch(takenInHand(frontOf(store.getState().view.front, mark.channel)));
  };
  const ask = (event: MouseEvent): void => {
    event.preventDefault();
    dispatch(askedFor({ what: 'note', mark, t: mark.t, channel: mark.channel ?? null }));
  };
  const [carried, drag] = useCarried({
    ...{ scale, mark },
    click: go,
    move: (t) => control.makeEdit({ kind: 'mark', list: 'notes', remove: mark, add: { ...mark, t } }),
  });
  const from = carried ?? mark.t;
  return (
    <Tip position="top-start" multiline maw={420} openDelay={700} label={about ? `${about}: ${mark.text}` : mark.text}>
      <button
        type="button"
        className="pin-note"
        style={{ left: `max(4px, ${scale.per(from)})`, width: scale.per(Math.max(0, end - from)) }}
        aria-label={`Note: ${mark.text}`}
        {...drag}
        // A press that no pointer makes is one of a key, or of somebody who hears the page.
        onClick={(event) => event.detail === 0 && go()}
        onDoubleClick={ask}
        onContextMenu={ask}
      >
        <svg width="9" height="12" aria-hidden className="pin-shape">
          <path d="M4.5 12 1 6.2A4 4 0 1 1 8 6.2Z" />
        </svg>
        <span className="pin-text">{mark.text}</span>
      </button>
    </Tip>
  );
}

/** Puts sections and notes where the line is. */
function AddMark(): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  // As they are when it is asked for: nothing of it is shown before.
  const scene = (): Parameters<typeof askNote>[0] => {
    const { song, view } = store.getState();
    return { song: song.song!, control, inHand: view.inHand, ask: (asked: Asked) => dispatch(askedFor(asked)) };
  };
  const key = (keys: string): ReactNode => (
    <Text fz="xs" c="dimmed">
      {keys}
    </Text>
  );
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <Tooltip label="New section or note at the line">
          <ActionIcon
            className="strip-add"
            variant="subtle"
            color="gray"
            size={20}
            radius={0}
            aria-label="New section or note"
          >
            <IconPlus size={14} />
          </ActionIcon>
        </Tooltip>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item rightSection={key('Shift+S')} onClick={() => askSection(scene())}>
          Section at the line…
        </Menu.Item>
        <Menu.Item rightSection={key('Shift+N')} onClick={() => askNote(scene())}>
          Note at the line…
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

/** Draws where curves are dense; what a pass has changed, when there is time for it. */
function useDensity(
  canvas: RefObject<HTMLCanvasElement | null>,
  { lanes, length }: Pick<Song, 'lanes' | 'length'>,
  width: number,
): void {
  const look = LOOKS[useAppSelector((state) => state.view.scheme)];
  const drawn = useRef<Song['lanes'] | null>(null);
  useEffect(() => {
    const draw = (): void => {
      const ctx = canvas.current?.getContext('2d');
      if (!ctx || !width) return;
      drawn.current = lanes;
      ctx.clearRect(0, 0, width, DENSITY_PX);
      ctx.fillStyle = look.bone;
      const counts = pointDensity(lanes, length, Math.ceil(width / BUCKET_PX));
      const most = Math.max(4, ...counts);
      counts.forEach((count, i) => {
        if (!count) return;
        const height = 3 + (DENSITY_PX - 5) * Math.sqrt(count / most);
        ctx.globalAlpha = 0.65;
        ctx.fillRect(i * BUCKET_PX, DENSITY_PX - height, BUCKET_PX - 1, height);
      });
    };
    // Another size has emptied the canvas.
    if (drawn.current === null || drawn.current === lanes) return draw();
    return whenIdle(draw, DENSITY_WITHIN_MS);
  }, [canvas, lanes, length, width, look]);
}

const StripRange = ({
  className,
  range: [from, to],
  scale,
}: {
  className: string;
  range: Range;
  scale: StripScale;
}): ReactNode => <div className={className} style={{ left: scale.per(from), width: scale.per(to - from) }} />;

type DensityProps = {
  readonly scale: StripScale;
  readonly width: number;
  readonly box: RefObject<HTMLDivElement | null>;
};

/** Where curves are dense, with the range, the loop and the punch range over it: a click goes there, a drag sets the range. */
function Density({ scale, width, box }: DensityProps): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const song = useOfSong('lanes', 'length', 'settings');
  const range = useAppSelector((state) => state.view.range);
  const canvas = useRef<HTMLCanvasElement>(null);
  useDensity(canvas, song, width);
  const { loop, punch } = song.settings;
  const drag = usePointerDrag((begun) => {
    const from = scale.timeAt(begun.clientX);
    let isClick = true;
    return {
      move: (event) => {
        isClick &&= Math.abs(event.clientX - begun.clientX) < DRAG_PX;
        if (isClick) return;
        const [a, b] = [from, scale.timeAt(event.clientX)].map((t) => scale.snapped(t, event.altKey)) as [
          number,
          number,
        ];
        if (a !== b) dispatch(rangeSet([Math.min(a, b), Math.max(a, b)]));
      },
      end: (event) => {
        if (isClick) void control.locate(scale.timeAt(event.clientX));
      },
      giveUp: () => void dispatch(rangeSet(range)),
    };
  });
  return (
    <div ref={box} className="strip-density" data-testid="strip" {...drag}>
      <canvas ref={canvas} width={Math.max(1, width)} height={DENSITY_PX} />
      {range && <StripRange className="strip-range" range={range} scale={scale} />}
      {loop && <StripRange className="strip-loop" range={loop} scale={scale} />}
      {punch && <StripRange className="strip-punch" range={punch} scale={scale} />}
    </div>
  );
}

/** The line, carried along the strip without React. */
function useLine(length: Seconds, width: number): RefObject<HTMLDivElement | null> {
  const { engine } = useOpenSong();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    const tick = (): void => {
      const share = engine.positionAt(performance.now()) / length;
      if (line.current) line.current.style.transform = `translateX(${share * width}px)`;
      frame = requestAnimationFrame(tick);
    };
    tick();
    return () => cancelAnimationFrame(frame);
  }, [engine, length, width]);
  return line;
}

/** The whole song, zoomed out: its sections and notes, where curves are dense, the range, the loop, the punch range, the line. */
export const SongStrip = memo(function SongStrip(): ReactNode {
  const song = useOfSong('sections', 'notes', 'length', 'channels');
  const { tempo, meter } = useOfSong('tempo', 'meter');
  const { format } = useViewParts('format');
  const { ref, width } = useElementSize();
  const box = useRef<HTMLDivElement>(null);
  const map = useMemo(() => meterMap(tempo, meter), [tempo, meter]);
  const line = useLine(song.length, width);
  const scale: StripScale = {
    per: (t) => `${(100 * t) / song.length}%`,
    timeAt: (clientX) => {
      const left = box.current?.getBoundingClientRect().left ?? 0;
      return Math.max(0, Math.min(song.length, ((clientX - left) / width) * song.length));
    },
    snapped: (t, isFree) => (isFree ? t : snap({ map, sections: song.sections, format }, 'bar', t)),
  };
  return (
    <div className={song.notes.length ? 'song-strip has-notes' : 'song-strip'} ref={ref}>
      <Sections song={song} scale={scale} />
      <Notes song={song} scale={scale} />
      <Density scale={scale} width={width} box={box} />
      <AddMark />
      <div className="strip-line" ref={line} />
    </div>
  );
});
