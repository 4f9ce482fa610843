import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { useElementSize } from '@mantine/hooks';
import type { Song } from '@sure-hand/core/song';
import { isFiltering } from '../../hands/laneFilter.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppSelector, useViewParts } from '../../store/store.js';
import { SongStrip } from '../ride/SongStrip.js';
import { DeskBar } from './DeskBar.js';
import { DeskCanvas } from './DeskCanvas.js';
import { StripFoot } from './StripFoot.js';
import { DESK, layStrips, stripsNear, throwHeight, widthOfStrips, type Strip } from './deskLayout.js';

/** How far the strips are scrolled before others are built. */
const BAND_PX = 160;

/** The strips as they are laid; Tab goes through their controls in that order. */
function useStrips(song: Song): readonly Strip[] {
  const open = useOpenSong();
  const { front, filter, desk } = useViewParts('front', 'filter', 'desk');
  const strips = useMemo(
    () => layStrips(song, { front, filter, desk }),
    // Strips depend on the channels, not on their lanes, unless they are looked at by what has curves.
    // oxlint-disable-next-line react/exhaustive-deps
    [isFiltering(filter) ? song : song.channels, front, filter, desk],
  );
  useEffect(() => {
    open.onView.current = strips.map(({ control }) => control);
    // No part of the page, which would be gone by then.
    // oxlint-disable-next-line react/exhaustive-deps
    return () => void (open.onView.current = []);
  }, [open, strips]);
  return strips;
}

/** Every channel as an upright throw with the bars that come to its cap: for riding several at once, and balance by eye. */
export function Desk(): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const inHand = useAppSelector((state) => state.view.inHand);
  const strips = useStrips(song);
  const { ref, width, height } = useElementSize();
  const scroller = useRef<HTMLDivElement>(null);
  const scrolled = useRef(0);
  const [band, setBand] = useState(0);
  const all = widthOfStrips(strips);
  useStripInSight(scroller, scrolled, strips, inHand, width);
  const footTop = DESK.throwTop + throwHeight(height) + DESK.underPx;
  return (
    <>
      <SongStrip />
      <DeskBar song={song} count={strips.length} />
      <main className="desk" ref={ref}>
        <div
          className="desk-scroll"
          ref={scroller}
          onScroll={(event) => {
            scrolled.current = event.currentTarget.scrollLeft;
            setBand(Math.floor(scrolled.current / BAND_PX));
          }}
          onWheel={(event) => {
            if (!event.altKey && !event.deltaX) event.currentTarget.scrollLeft += event.deltaY;
          }}
        >
          <div className="desk-strips" style={{ width: Math.max(all + DESK.scalePx, width) }}>
            {width > 0 && (
              <div className="desk-canvas">
                <DeskCanvas song={song} strips={strips} width={width} height={height} scrolled={scrolled} />
              </div>
            )}
            {stripsNear(strips, band * BAND_PX, width + BAND_PX).map((strip) => (
              <StripFoot key={strip.key} song={song} strip={strip} top={footTop} />
            ))}
          </div>
        </div>
        <div className="desk-gutter" style={{ top: footTop, width: DESK.scalePx }} />
        {strips.length === 0 && <p className="no-strips">No strip is like that. “All strips” shows all again.</p>}
      </main>
    </>
  );
}

/** Scrolls the strip in hand into sight as another one comes into hand. */
function useStripInSight(
  scroller: { readonly current: HTMLDivElement | null },
  scrolled: { readonly current: number },
  strips: readonly Strip[],
  inHand: string | null,
  width: number,
): void {
  const { session } = useOpenSong();
  const isMeasured = width > 0;
  useEffect(() => {
    // While a hand is down nothing moves under it.
    if (session.recorder.touched.length) return;
    const at = scroller.current;
    const strip = strips.find(({ control }) => control === inHand);
    if (!at || !strip || !isMeasured) return;
    const room = width - DESK.scalePx;
    if (strip.left < scrolled.current) at.scrollLeft = strip.left;
    else if (strip.left + strip.px > scrolled.current + room) at.scrollLeft = strip.left + strip.px - room;
    // Only when another one comes into hand: not as strips change under one's eyes.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [inHand, isMeasured]);
}
