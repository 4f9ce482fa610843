import { useEffect, useRef, useState, type KeyboardEvent, type MouseEvent, type PointerEvent } from 'react';
import { MODES, type ChannelKey, type Mode, type Song } from '@sure-hand/core/song';
import {
  canSet,
  carriedFrom,
  cellFurther,
  cellsBetween,
  cellsWords,
  isCellOn,
  statesFor,
  type CellState,
  type GuardCell,
  type SwitchCell,
} from '../../hands/guardCells.js';
import { giveUpByEscape } from '../../hands/keys/pageKeys.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';

/** Cells from where a hand began to where it is. */
type Reach = { readonly from: GuardCell; readonly to: GuardCell };
/** Cells under a hand, and what it sets them to. */
type Held = Reach & { readonly carries: CellState };

/** The hand on the cells of the guards. */
export type CellHand = {
  /** What is under it, or reached with Shift and the arrows. */
  readonly held: readonly GuardCell[];
  readonly begin: (cell: GuardCell, event: PointerEvent) => void;
  readonly over: (cell: GuardCell) => void;
  readonly key: (cell: GuardCell, event: KeyboardEvent) => void;
  /** A press that no pointer makes, as of somebody who hears the page. */
  readonly press: (cell: SwitchCell, event: MouseEvent) => void;
  /** Sets some cells, or takes them off where all of them are set. */
  readonly setAll: (cells: readonly SwitchCell[]) => void;
  readonly setModes: (channels: readonly ChannelKey[], mode: Mode) => void;
};

/** Where a cell is in the page. */
export const cellId = ({ channel, column }: GuardCell): string => `guard ${channel} ${column}`;

/** Gives a cell the focus: it is a button, or has one. */
function focusCell(cell: GuardCell): void {
  const one = document.getElementById(cellId(cell));
  (one?.querySelector('button') ?? one)?.focus();
}

const STEPS: Record<string, readonly [row: number, column: number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** Sets cells; one of a channel that is chosen with others stands for all of those. */
function useSetting(
  song: Song,
  together: ReadonlySet<ChannelKey>,
): (cells: readonly GuardCell[], to: CellState) => void {
  const { guards } = useOpenSong();
  return (cells, to) => {
    const all = cells.flatMap((cell) =>
      together.size > 1 && together.has(cell.channel)
        ? [...together].map((channel) => ({ channel, column: cell.column }))
        : [cell],
    );
    guards.set(statesFor(song, all, to), cellsWords(cells, to));
  };
}

/** Does something as the pointer comes up anywhere, and gives up with Esc, as long as something is held. */
function useEnds(isHeld: () => boolean, finish: () => void, giveUp: () => void): void {
  const ends = useRef({ isHeld, finish, giveUp });
  ends.current = { isHeld, finish, giveUp };
  useEffect(() => {
    const up = (): void => ends.current.finish();
    const giveUp = (): boolean => {
      const { isHeld } = ends.current;
      const was = isHeld();
      if (was) ends.current.giveUp();
      return was;
    };
    const cancel = (): void => void giveUp();
    const unheard = giveUpByEscape(giveUp);
    window.addEventListener('pointerup', up);
    window.addEventListener('pointercancel', cancel);
    return () => {
      unheard();
      window.removeEventListener('pointerup', up);
      window.removeEventListener('pointercancel', cancel);
    };
  }, []);
}

/** A mode is carried from its cell to others; on its cell alone the hand asks for the menu. */
const isMenu = ({ from, to }: Reach): boolean => from.column === 'mode' && from.channel === to.channel;

/**
 * A drag over cells sets all between, as does Enter with what Shift and the arrows have reached: what is on or off becomes what the
 * first cell becomes, modes become the mode of the first. Esc gives a drag up.
 */
export function useCells(song: Song, rows: readonly ChannelKey[], together: ReadonlySet<ChannelKey>): CellHand {
  const [held, hold] = useState<Held | null>(null);
  const [reach, setReach] = useState<Reach | null>(null);
  const set = useSetting(song, together);
  const finish = (): void => {
    if (!held) return;
    hold(null);
    if (!isMenu(held)) set(cellsBetween(rows, held.from, held.to), held.carries);
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
      const under = event.target as Element;
      // A menu lies over the cells, but is none of them.
      if (event.button !== 0 || !event.currentTarget.contains(under)) return;
      // Other cells have to hear of a finger that began on this one.
      if (under.hasPointerCapture(event.pointerId)) under.releasePointerCapture(event.pointerId);
      setReach(null);
      hold({ from: cell, to: cell, carries: carriedFrom(song, cell) });
    },
    over: (cell) => held && hold({ ...held, to: cell }),
    press: (cell, event) => {
      if (event.detail === 0) set([cell], carriedFrom(song, cell));
    },
    key: (cell, event) => {
      if (!event.currentTarget.contains(event.target as Element)) return;
      const step = STEPS[event.key];
      const reached = reach ?? { from: cell, to: cell };
      const digit =
        cell.column === 'mode' && !event.altKey && !event.ctrlKey ? MODES[Number(event.key) - 1] : undefined;
      if (step) {
        const to = cellFurther(rows, cell, step);
        setReach(event.shiftKey ? { from: reached.from, to } : null);
        focusCell(to);
      } else if (digit) set(cellsBetween(rows, reached.from, reached.to), digit);
      else if (event.key === 'Enter' && !isMenu(reached))
        set(cellsBetween(rows, reached.from, reached.to), carriedFrom(song, reached.from));
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
    setAll: (cells) => {
      const settable = cells.filter((cell) => canSet(song, cell));
      set(settable, !settable.every((cell) => isCellOn(song, cell)));
    },
    setModes: (channels, mode) =>
      set(
        channels.map((channel) => ({ channel, column: 'mode' })),
        mode,
      ),
  };
}
