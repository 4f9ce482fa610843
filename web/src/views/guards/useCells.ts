import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { ChannelKey, Song } from '@sure-hand/core/song';
import {
  COLUMN_NAMES,
  GUARD_COLUMNS,
  canSet,
  cellsBetween,
  isCellOn,
  statesFor,
  type GuardCell,
} from '../../hands/guardCells.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';

/** Cells under a hand: from where it began to where it is, and whether they are being set or taken off. */
type Held = { readonly from: GuardCell; readonly to: GuardCell; readonly on: boolean };

/** The hand on the cells of the guards. */
export type CellHand = {
  /** What is under it, or reached with Shift and the arrows. */
  readonly held: readonly GuardCell[];
  readonly begin: (cell: GuardCell, event: PointerEvent) => void;
  readonly over: (cell: GuardCell) => void;
  readonly key: (cell: GuardCell, event: KeyboardEvent) => void;
  /** Sets some cells, or takes them off where all of them are set. */
  readonly setAll: (cells: readonly GuardCell[]) => void;
};

/** Where a cell is in the page. */
export const cellId = ({ channel, column }: GuardCell): string => `guard ${channel} ${column}`;

const STEPS: Record<string, readonly [row: number, column: number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** The cell a step further, held at the ends. */
function stepped(
  rows: readonly ChannelKey[],
  { channel, column }: GuardCell,
  [down, right]: readonly [number, number],
): GuardCell {
  const within = (i: number, length: number): number => Math.max(0, Math.min(length - 1, i));
  return {
    channel: rows[within(rows.indexOf(channel) + down, rows.length)]!,
    column: GUARD_COLUMNS[within(GUARD_COLUMNS.indexOf(column) + right, GUARD_COLUMNS.length)]!,
  };
}

/** Sets cells; one of a channel that is chosen with others stands for all of those. */
function useSetting(song: Song, together: ReadonlySet<ChannelKey>): (cells: readonly GuardCell[], on: boolean) => void {
  const { guards } = useOpenSong();
  return (cells, on) => {
    const all = cells.flatMap((cell) =>
      together.size > 1 && together.has(cell.channel)
        ? [...together].map((channel) => ({ channel, column: cell.column }))
        : [cell],
    );
    const columns = [...new Set(cells.map(({ column }) => COLUMN_NAMES[column]))].join(', ');
    guards.set(statesFor(song, all, on), `${columns} ${on ? 'set' : 'taken off'}`);
  };
}

/** Does something as the pointer comes up anywhere, and gives up with Esc, as long as something is held. */
function useEnds(isHeld: () => boolean, finish: () => void, giveUp: () => void): void {
  const ends = useRef({ isHeld, finish, giveUp });
  ends.current = { isHeld, finish, giveUp };
  useEffect(() => {
    const up = (): void => ends.current.finish();
    const esc = (event: globalThis.KeyboardEvent): void => {
      if (event.key !== 'Escape' || !ends.current.isHeld()) return;
      event.stopImmediatePropagation();
      ends.current.giveUp();
    };
    window.addEventListener('pointerup', up);
    window.addEventListener('keydown', esc, true);
    return () => {
      window.removeEventListener('pointerup', up);
      window.removeEventListener('keydown', esc, true);
    };
  }, []);
}

/** A drag over cells sets all between, as does Enter with what Shift and the arrows have reached. Esc gives a drag up. */
export function useCells(song: Song, rows: readonly ChannelKey[], together: ReadonlySet<ChannelKey>): CellHand {
  const [held, hold] = useState<Held | null>(null);
  const [reach, setReach] = useState<{ readonly from: GuardCell; readonly to: GuardCell } | null>(null);
  const set = useSetting(song, together);
  const finish = (): void => {
    if (!held) return;
    hold(null);
    set(cellsBetween(rows, held.from, held.to), held.on);
  };
  useEnds(
    () => held !== null,
    finish,
    () => hold(null),
  );
  const shown = held ?? reach;
  return {
    held: shown ? cellsBetween(rows, shown.from, shown.to) : [],
    begin: (cell, event) => {
      if (event.button !== 0) return;
      // Other cells have to hear of a finger that began on this one.
      if (event.currentTarget.hasPointerCapture(event.pointerId))
        event.currentTarget.releasePointerCapture(event.pointerId);
      setReach(null);
      hold({ from: cell, to: cell, on: !isCellOn(song, cell) });
    },
    over: (cell) => held && hold({ ...held, to: cell }),
    key: (cell, event) => {
      const step = STEPS[event.key];
      if (step) {
        const to = stepped(rows, cell, step);
        setReach(event.shiftKey ? { from: reach?.from ?? cell, to } : null);
        document.getElementById(cellId(to))?.focus();
      } else if (event.key === 'Enter')
        set(reach ? cellsBetween(rows, reach.from, reach.to) : [cell], !isCellOn(song, reach?.from ?? cell));
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
    setAll: (cells) => {
      const settable = cells.filter((cell) => canSet(song, cell));
      set(settable, !settable.every((cell) => isCellOn(song, cell)));
    },
  };
}
