import { startTransition, useEffect, useMemo, useReducer, useRef, useState, type ReactNode } from 'react';
import { channelNamed, controlId, controlsOf, type Song } from '@sure-hand/core/song';
import { familyOf, isFiltering } from '../../hands/laneFilter.js';
import { useElementSize } from '@mantine/hooks';
import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { LOOKS, familyHue } from '../../parts/look.js';
import type { OpenSong } from '../../open/openSong.js';
import { useOfHands, useOpenSong } from '../../open/OpenSongProvider.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { usePointerDrag } from '../../parts/usePointerDrag.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../../store/store.js';
import { HEAD_PX, foldToggled, headsDrawn, lanesChosen, wholeShown, zoomed } from '../../store/viewSlice.js';
import { RideCanvas } from './RideCanvas.js';
import { LaneHead } from './LaneHead.js';
import { LookedAt } from './LookedAt.js';
import { useCovered, useKeepInSight, useKeepStill } from './keepInSight.js';
import { NumbersPanel } from './NumbersPanel.js';
import { runningScale } from './rideScale.js';
import { RowHead } from './RowHead.js';
import { SongStrip } from './SongStrip.js';
import {
  RIDE,
  bandOf,
  familiesOf,
  heightOf,
  lanesOpenAfter,
  layRows,
  rowsNear,
  sameTall,
  type ChannelRow,
  type RideRow,
  type TallRows,
} from './rideLayout.js';

const NOTHING_WRITTEN = {};
/** What is taken to be the view’s height before it is known. */
const USUAL_ROOM_PX = 800;

/**
 * The rows that stand tall: the one in hand, and what the last pass wrote, until the next act. While a hand is down nothing
 * reflows, so they change only after; and they do between other work, so that a stop is heard and said at once.
 */
function useTallRows(): TallRows {
  const { session } = useOpenSong();
  const isHandDown = useOfHands(({ session }) => session.recorder.touched.length > 0);
  const isRolling = useOfHands(({ session }) => session.isRolling);
  const { inHand, pass, isPassTold, front } = useViewParts('inHand', 'pass', 'isPassTold', 'front');
  const channel = inHand ? channelNamed(inHand) : null;
  const written = useMemo(
    () => (pass?.stands && isPassTold ? lanesOpenAfter(pass.receipt, front) : NOTHING_WRITTEN),
    [pass, isPassTold, front],
  );
  const [tall, change] = useReducer(
    // The same rows stay the same: where they change the whole picture is drawn anew. A hand may have come down meanwhile.
    (was: TallRows, next: TallRows) => (session.recorder.touched.length || sameTall(was, next) ? was : next),
    { inHand: channel, written },
  );
  useEffect(() => {
    if (isHandDown) return;
    startTransition(() => change({ inHand: channel, written: isRolling ? NOTHING_WRITTEN : written }));
  }, [isHandDown, channel, written, isRolling]);
  return tall;
}

/** The rows as they are laid; Tab goes through their controls in that order. */
function useRows(song: Song, tall: TallRows): readonly RideRow[] {
  const open = useOpenSong();
  const isHandDown = useOfHands(({ session }) => session.recorder.touched.length > 0);
  const view = useViewParts('front', 'stacked', 'filter', 'chosen', 'folded', 'pinned', 'slimPx', 'tallPx', 'desk');
  // While a hand is down nothing reflows that comes from elsewhere; what one folds or looks at oneself does.
  const looked = useRef(song);
  const controls = controlsOf(song);
  if (!isHandDown || controlsOf(looked.current) !== controls) looked.current = song;
  const rows = useMemo(
    () => layRows(song, view, tall),
    // Rows depend on what controls there are, not on their lanes, unless they are looked at by what has curves.
    // oxlint-disable-next-line react/exhaustive-deps
    [isFiltering(view.filter) ? looked.current : controls, view, tall],
  );
  useEffect(() => {
    open.onView.current = rows.flatMap((row) => (row.kind === 'channel' ? [row.control] : []));
    // No part of the page, which would be gone by then.
    // oxlint-disable-next-line react/exhaustive-deps
    return () => void (open.onView.current = []);
  }, [open, rows]);
  return rows;
}

/** The main view: rows of lanes that run under the now line, with the caps on it. */
export function Ride(): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const view = useViewParts('headPx', 'secPerScreen', 'inHand', 'numbers');
  const tall = useTallRows();
  const { ref, width, height } = useElementSize();
  const scroller = useRef<HTMLDivElement>(null);
  const scrolled = useRef(0);
  const [band, setBand] = useState(0);
  const rows = useRows(song, tall);
  useWheel(scroller, {
    open,
    secPerScreen: view.secPerScreen,
    width: width - view.headPx,
    zoom: (sec) => dispatch(sec >= song.length ? wholeShown(song.length) : zoomed(sec)),
  });
  useKeepStill(scroller, scrolled, rows, tall.inHand);
  const covered = useCovered(scroller, view.headPx + runningScale(0, width - view.headPx, view.secPerScreen).lineX);
  useKeepInSight(scroller, scrolled, {
    rows,
    tall: tall.inHand,
    inHand: view.inHand,
    room: height && height - RIDE.rulerPx - covered,
    covered,
  });
  const rowsHeight = heightOf(rows);
  return (
    <>
      <SongStrip />
      <div className="ride-and-numbers">
        <main className="ride" ref={ref}>
          <div
            className="ride-scroll"
            ref={scroller}
            onScroll={(event) => {
              scrolled.current = event.currentTarget.scrollTop;
              setBand(bandOf(scrolled.current));
            }}
          >
            <div className="ride-rows" style={{ height: Math.max(rowsHeight + RIDE.rulerPx + covered, height) }}>
              <Heads rows={rowsNear(rows, { band, room: height || USUAL_ROOM_PX, inHand: tall.inHand })} />
              {width > 0 && (
                <div className="ride-canvas" style={{ left: view.headPx }}>
                  <RideCanvas song={song} rows={rows} width={width - view.headPx} height={height} scrolled={scrolled} />
                </div>
              )}
            </div>
          </div>
          <div className="ride-corner" style={{ width: view.headPx, height: RIDE.rulerPx }}>
            <LookedAt />
          </div>
          <HeadsEdge />
        </main>
        {view.numbers && <NumbersPanel />}
      </div>
    </>
  );
}

/** How far one press of an arrow draws the heads' edge. */
const EDGE_STEP_PX = 12;

/** The edge between heads and lanes: drawn wider or narrower by the pointer, or by the arrows while it has the focus. */
function HeadsEdge(): ReactNode {
  const dispatch = useAppDispatch();
  const headPx = useAppSelector((state) => state.view.headPx);
  const drag = usePointerDrag((begun) => ({
    move: (event) => dispatch(headsDrawn(headPx + event.clientX - begun.clientX)),
    giveUp: () => dispatch(headsDrawn(headPx)),
  }));
  return (
    <div
      className="heads-edge"
      role="separator"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label="Width of the names"
      aria-valuemin={HEAD_PX.least}
      aria-valuemax={HEAD_PX.most}
      aria-valuenow={headPx}
      title="Drag to give the names more room"
      style={{ left: headPx - 3 }}
      {...drag}
      onDoubleClick={() => dispatch(headsDrawn(HEAD_PX.usual))}
      onKeyDown={(event) => {
        const step = event.key === 'ArrowRight' ? EDGE_STEP_PX : event.key === 'ArrowLeft' ? -EDGE_STEP_PX : 0;
        if (!step) return;
        event.preventDefault();
        event.stopPropagation();
        dispatch(headsDrawn(headPx + step));
      }}
    />
  );
}

function Heads({ rows }: { rows: readonly RideRow[] }): ReactNode {
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const { scheme, headPx, filter } = useViewParts('scheme', 'headPx', 'filter');
  const families = familiesOf(song);
  const hue = (family: string): string => familyHue(families, family, LOOKS[scheme]);
  return (
    <div className="heads" style={{ width: headPx, top: RIDE.rulerPx }}>
      {rows.length === 0 && isFiltering(filter) && (
        <p className="no-rows">No row is like that. The cross above shows all again.</p>
      )}
      {rows.map((row) =>
        row.kind === 'family' ? (
          <PlainButton
            key={`family ${row.family}`}
            className="family"
            style={{ top: row.top, height: row.height, borderLeftColor: hue(row.family) }}
            aria-expanded={!row.folded}
            title={`${row.family}: folds the family; Ctrl+click chooses all of it`}
            onClick={(event) => {
              if (!event.ctrlKey && !event.metaKey) return void dispatch(foldToggled(row.family));
              const own = song.channels.filter((one) => familyOf(one) === row.family);
              dispatch(lanesChosen(own.map(({ key }) => controlId(key, 'level'))));
            }}
          >
            {row.folded ? <IconChevronRight size={13} /> : <IconChevronDown size={13} />}
            <span className="is-cut">{row.family}</span>
            <span className="count">{row.count}</span>
          </PlainButton>
        ) : (
          <HeadOf
            key={row.isHead ? row.channel.key : `${row.beside ?? ''} ${row.control}`}
            song={song}
            row={row}
            hue={hue(familyOf(row.channel))}
          />
        ),
      )}
    </div>
  );
}

const HeadOf = (props: { song: Song; row: ChannelRow; hue: string }): ReactNode =>
  props.row.isHead ? <RowHead {...props} /> : <LaneHead {...props} />;

/** The wheel scrolls the rows; sideways, or with Shift, it scrolls the song under the line; with Ctrl it zooms. */
function useWheel(
  scroller: { readonly current: HTMLDivElement | null },
  on: { open: OpenSong; secPerScreen: number; width: number; zoom: (sec: number) => void },
): void {
  const latest = useRef(on);
  latest.current = on;
  useEffect(() => {
    const at = scroller.current;
    if (!at) return;
    let last = -Infinity;
    const wheel = (event: WheelEvent): void => {
      const { open, secPerScreen, width, zoom } = latest.current;
      const sideways = event.shiftKey && !event.deltaX ? event.deltaY : event.deltaX;
      if (event.ctrlKey || event.metaKey) {
        event.preventDefault();
        zoom(secPerScreen * 1.0015 ** event.deltaY);
      } else if (Math.abs(sideways) > Math.abs(event.shiftKey ? 0 : event.deltaY)) {
        event.preventDefault();
        if (event.timeStamp - last > 500) open.control.scrollBegins();
        last = event.timeStamp;
        open.control.scrollTo(open.control.position + (sideways / width) * secPerScreen);
      }
    };
    at.addEventListener('wheel', wheel, { passive: false });
    return () => at.removeEventListener('wheel', wheel);
  }, [scroller]);
}
