import { useEffect, useLayoutEffect, useRef, useState } from 'react';
import { useAppSelector } from '../../store/store.js';
import { RIDE, steadyRow, type RideRow } from './rideLayout.js';

/** A cap reaches so far beyond the line. */
const CAP_PX = 20;

/** How much of the rows' place, from below, the picture of an insert covers; 0 where it leaves the line free, at `lineX` of the view. */
export function useCovered(scroller: { readonly current: HTMLDivElement | null }, lineX: number): number {
  const isOpen = useAppSelector((state) => state.view.asked?.what === 'effect');
  const [covered, setCovered] = useState(0);
  useLayoutEffect(() => {
    const at = scroller.current;
    const sheet = isOpen ? document.querySelector('.sheet-effect') : null;
    if (!at || !sheet) return setCovered(0);
    const measure = (): void => {
      const [view, over] = [at.getBoundingClientRect(), sheet.getBoundingClientRect()];
      setCovered(over.left < view.left + lineX + CAP_PX ? Math.max(0, Math.ceil(view.bottom - over.top)) : 0);
    };
    measure();
    // It is as high as what is in it.
    const watching = new ResizeObserver(measure);
    watching.observe(sheet);
    return () => watching.disconnect();
  }, [scroller, isOpen, lineX]);
  return covered;
}

/** Keeps what is looked at where it is as rows grow and shrink, as after a pass. */
export function useKeepStill(
  scroller: { readonly current: HTMLDivElement | null },
  scrolled: { current: number },
  rows: readonly RideRow[],
  inHand: string | null,
): void {
  const before = useRef({ rows, inHand });
  useLayoutEffect(() => {
    const was = before.current;
    before.current = { rows, inHand };
    const at = scroller.current;
    if (!at || was.rows === rows || was.inHand !== inHand) return;
    const steady = steadyRow(was.rows, inHand, scrolled.current, at.clientHeight - RIDE.rulerPx);
    const now = rows.find((row) => row.kind === 'channel' && row.isHead && row.channel.key === steady?.channel.key);
    if (!steady || !now || now.top === steady.top) return;
    at.scrollTop = scrolled.current + now.top - steady.top;
    scrolled.current = at.scrollTop;
  }, [scroller, scrolled, rows, inHand]);
}

/** Scrolls the row in hand into sight when another one comes into hand, or something covers it. */
export function useKeepInSight(
  scroller: { readonly current: HTMLDivElement | null },
  scrolled: { readonly current: number },
  {
    rows,
    tall,
    inHand,
    room,
    covered,
  }: {
    readonly rows: readonly RideRow[];
    readonly tall: string | null;
    readonly inHand: string | null;
    /** How high the rows' place is, what covers it left out; 0 before it is known. */
    readonly room: number;
    readonly covered: number;
  },
): void {
  const isMeasured = room > 0;
  const own = rows.filter((one) => one.kind === 'channel' && one.channel.key === tall);
  // Of lanes that are open below each other it is the one in hand.
  const lane = own.length > 1 ? inHand : null;
  useEffect(() => {
    const at = scroller.current;
    const row = own.find((one) => one.kind === 'channel' && one.control === lane) ?? own[0];
    if (!at || !row || !isMeasured) return;
    // The browser is not asked where it stands: it would have to lay out the whole view first.
    if (row.top < scrolled.current) at.scrollTop = row.top;
    // Of a row that is higher than its place the head is seen.
    else if (row.top + row.height > scrolled.current + room) at.scrollTop = row.top + Math.min(0, row.height - room);
    // Only then: not as heights change under one's eyes.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [tall, lane, isMeasured, covered]);
}
