import { useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Curve, Point } from '@sure-hand/core/curve';
import type { LayerOf } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import { NUMBER_COLUMNS, cellText, typedCell } from '../../hands/numbers.js';
import { useAppSelector } from '../../store/store.js';
import { NumberCell } from './NumberCell.js';
import type { NumberActs } from './useNumbers.js';

const ROW_PX = 24;
const PAGE_ROWS = 15;

/** Where the table is worked on: a row by its place in the order, and a column. */
type Cell = { readonly row: number; readonly column: number };

type Props = {
  readonly song: Song;
  readonly of: LayerOf;
  readonly points: Curve;
  /** The places of the points in the order of the table. */
  readonly places: readonly number[];
  readonly numbers: NumberActs;
};

const STEPS: Readonly<Record<string, readonly [rows: number, columns: number]>> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
  PageDown: [PAGE_ROWS, 0],
  PageUp: [-PAGE_ROWS, 0],
  Home: [-Infinity, 0],
  End: [Infinity, 0],
};

const within = (x: number, most: number): number => Math.max(0, Math.min(most, x));

/** What keys do in the table: arrows go, with Shift they pick more; Enter and F2 type. All else is left to the page. */
function tableKey(
  event: KeyboardEvent,
  { go, begin }: { go: (step: readonly [number, number], isMore: boolean) => void; begin: () => void },
): void {
  const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey;
  const step = STEPS[event.key];
  if (step && isPlain) go(step, event.shiftKey && step[0] !== 0);
  else if ((event.key === 'Enter' || event.key === 'F2') && isPlain) begin();
  // What is copied and pasted here is the table: the browser tells the panel of it.
  else if ((event.ctrlKey || event.metaKey) && ['c', 'v'].includes(event.key.toLowerCase())) {
    event.stopPropagation();
    return;
  } else return;
  event.preventDefault();
  event.stopPropagation();
}

/** Where one is in the table, what is typed there, and what goes on from it. */
function useCells({ song, of, points, places, numbers }: Props, onGo: (row: number) => void) {
  const format = useAppSelector((state) => state.view.format);
  const [at, setAt] = useState<Cell>({ row: 0, column: 0 });
  // What is typed is of the point it was opened on, whatever comes and goes meanwhile.
  const [typing, setTyping] = useState<{ readonly text: string; readonly point: Point } | null>(null);
  const isPicked = useMemo(() => new Set(numbers.picked), [numbers.picked]);
  const pointAt = (row: number): Point | undefined => (row < places.length ? points.point(places[row]!) : undefined);
  const textAt = (cell: Cell): string => {
    const point = pointAt(cell.row);
    return point ? cellText(song, of, point, NUMBER_COLUMNS[cell.column]!, format) : '';
  };
  return {
    ...{ at, textAt },
    typing: typing?.text ?? null,
    open(): void {
      const point = pointAt(at.row);
      if (point) setTyping({ text: textAt(at), point });
    },
    type: (text: string | null): void => setTyping((was) => (was && text !== null ? { ...was, text } : null)),
    isRowPicked: (row: number): boolean => isPicked.has(pointAt(row)?.t ?? NaN),
    go([rows, columns]: readonly [number, number], isMore: boolean): void {
      const to = { row: within(at.row + rows, places.length - 1), column: within(at.column + columns, 5) };
      setAt(to);
      onGo(to.row);
      const t = pointAt(to.row)?.t;
      if (t !== undefined) numbers.pick(isMore ? [...new Set([...numbers.picked, t])] : [t]);
    },
    keep(text: string): void {
      setTyping(null);
      onGo(at.row);
      if (!typing) return;
      const { point } = typing;
      const column = NUMBER_COLUMNS[at.column]!;
      if (text === cellText(song, of, point, column, format)) return;
      const next = typedCell(song, of, point, { column, text, format });
      if (typeof next === 'string') numbers.say(next);
      else numbers.change(point, next);
    },
    pick(to: Cell, how: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }): void {
      const { t } = pointAt(to.row)!;
      const { picked } = numbers;
      if (how.ctrlKey || how.metaKey)
        numbers.pick(isPicked.has(t) ? picked.filter((one) => one !== t) : [...picked, t]);
      else numbers.pick(how.shiftKey ? timesBetween(points, places, at.row, to.row) : [t]);
      setAt(to);
    },
  };
}

/** Thousands of rows, of which those in sight are built. */
export function NumberRows(props: Props): ReactNode {
  const { places } = props;
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: places.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 8,
  });
  const cells = useCells(props, (row) => {
    virtual.scrollToIndex(row);
    box.current?.focus();
  });
  const { at, typing, textAt } = cells;
  return (
    <div
      ref={box}
      className="numbers-rows"
      role={places.length ? 'grid' : 'group'}
      tabIndex={0}
      aria-label="Points: arrows go, Enter types, Ctrl+C and Ctrl+V copy and paste"
      aria-rowcount={places.length || undefined}
      data-keeps="up down left right shift+up shift+down home end pageup pagedown enter mod+c mod+v"
      onKeyDown={(event) =>
        typing === null ? tableKey(event, { go: cells.go, begin: cells.open }) : event.stopPropagation()
      }
    >
      {!places.length && <NoRows />}
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map(({ index, start }) => (
          <div
            key={index}
            role="row"
            aria-rowindex={index + 1}
            aria-selected={cells.isRowPicked(index)}
            className={cells.isRowPicked(index) ? 'numbers-row is-picked' : 'numbers-row'}
            style={{ transform: `translateY(${start}px)`, height: ROW_PX }}
          >
            {NUMBER_COLUMNS.map((column, i) => (
              <NumberCell
                key={column}
                column={column}
                text={textAt({ row: index, column: i })}
                isAt={index === at.row && i === at.column}
                typing={index === at.row && i === at.column ? typing : null}
                onOpen={cells.open}
                onTyping={cells.type}
                onKeep={cells.keep}
                onGo={(how) => {
                  cells.pick({ row: index, column: i }, how);
                  box.current?.focus();
                }}
              />
            ))}
          </div>
        ))}
      </div>
    </div>
  );
}

const NoRows = (): ReactNode => (
  <p className="numbers-none">No points yet: Insert adds one at the line, Ctrl+V pastes a table.</p>
);

/** Times of the points from one row to another. */
function timesBetween(points: Curve, places: readonly number[], from: number, to: number): Seconds[] {
  const rows = places.slice(Math.min(from, to), Math.max(from, to) + 1);
  return [...new Set(rows.map((i) => points.t[i]!))].sort((a, b) => a - b);
}
