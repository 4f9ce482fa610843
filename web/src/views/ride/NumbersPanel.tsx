import { useMemo, useState, type ClipboardEvent, type ReactNode } from 'react';
import { IconArrowDown, IconArrowUp, IconX } from '@tabler/icons-react';
import type { Point } from '@sure-hand/core/curve';
import type { LayerOf } from '@sure-hand/core/edits';
import { printPointTable } from '@sure-hand/core/formats';
import { controlOf, laneOf, layerPoints, layerScale, type Song } from '@sure-hand/core/song';
import { SYSTEM_CLIPBOARD } from '../../hands/clipboard.js';
import { NUMBER_COLUMNS, sortedPlaces, type NumberColumn, type Sorting } from '../../hands/numbers.js';
import { layerOf } from '../../hands/picking.js';
import { layerName } from '../../hands/reasonWords.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { useAppDispatch, useAppSelector } from '../../store/store.js';
import { numbersToggled } from '../../store/viewSlice.js';
import { NUMBER_HEADS } from './NumberCell.js';
import { NumberRows } from './NumberRows.js';
import { useNumbers, type NumberActs } from './useNumbers.js';

const SORTED_BY: Readonly<Record<NumberColumn, Sorting['by'] | null>> = {
  bar: 'time',
  clock: 'time',
  code: 'time',
  value: 'value',
  shape: 'shape',
  bend: null,
};

/** The points of the lane in hand as numbers, beside the lanes: to be read, sorted, typed, and taken to a spreadsheet and back. */
export function NumbersPanel(): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const dispatch = useAppDispatch();
  const inHand = useAppSelector((state) => state.view.inHand);
  const of = useMemo(() => (inHand ? layerOf(song, inHand) : null), [song, inHand]);
  return (
    <aside className="numbers" aria-label="Points as numbers">
      <header className="numbers-top">
        <p className="numbers-name">{of ? layerName(song, of.control, of.layer) : 'Nothing in hand'}</p>
        <PlainButton
          className="small"
          aria-label="Close the numbers"
          title="Alt+N"
          onClick={() => dispatch(numbersToggled())}
        >
          <IconX size={13} />
        </PlainButton>
      </header>
      {of && <Numbers key={`${of.control} ${of.layer}`} song={song} of={of} />}
    </aside>
  );
}

function Numbers({ song, of }: { song: Song; of: LayerOf }): ReactNode {
  const points = layerPoints(laneOf(song, of.control), of.layer);
  const [sorting, setSorting] = useState<Sorting>({ by: 'time', isDown: false });
  const places = useMemo(() => sortedPlaces(points, sorting), [points, sorting]);
  const numbers = useNumbers(song, of);
  const scale = layerScale(controlOf(song, of.control), of.layer);
  const { picked, wrong } = numbers;
  const chosen = (): Iterable<Point> => {
    const isPicked = new Set(picked);
    return picked.length ? [...points].filter(({ t }) => isPicked.has(t)) : points;
  };
  const copied = (): string => printPointTable(chosen(), { scale });
  const onCopy = (event: ClipboardEvent): void => {
    if ((event.target as Element).closest('input, select')) return;
    event.preventDefault();
    event.clipboardData.setData('text/plain', copied());
  };
  const onPaste = (event: ClipboardEvent): void => {
    if ((event.target as Element).closest('input, select')) return;
    event.preventDefault();
    numbers.paste(event.clipboardData.getData('text/plain'));
  };
  const pasteByButton = (): void =>
    void SYSTEM_CLIPBOARD.readText().then(numbers.paste, () =>
      numbers.say('The browser does not let the page read what was copied: click into the table and press Ctrl+V.'),
    );
  return (
    <div className="numbers-body" onCopy={onCopy} onPaste={onPaste}>
      <div className="numbers-acts">
        <span className="quiet" data-testid="numbers-count">
          {points.length} {points.length === 1 ? 'point' : 'points'}
          {picked.length > 0 && `, ${picked.length} picked`}
        </span>
        <PlainButton className="small" onClick={() => void SYSTEM_CLIPBOARD.writeText(copied()).catch(() => undefined)}>
          {picked.length ? 'Copy picked' : 'Copy all'}
        </PlainButton>
        <PlainButton className="small" onClick={pasteByButton}>
          Paste
        </PlainButton>
      </div>
      {wrong.length > 0 && <WrongRows numbers={numbers} />}
      <div className="numbers-heads">
        {NUMBER_COLUMNS.map((column) => (
          <SortHead key={column} column={column} sorting={sorting} onSort={setSorting} />
        ))}
      </div>
      <NumberRows song={song} of={of} points={points} places={places} numbers={numbers} />
    </div>
  );
}

/** So many of what stayed out are listed. */
const LISTED = 50;

/** What was typed or pasted and did not go in: each with its row and its reason. */
function WrongRows({ numbers: { wrong, clearWrong } }: { numbers: NumberActs }): ReactNode {
  return (
    <div className="numbers-wrong" role="alert" tabIndex={0} aria-label="What stayed out">
      {wrong.slice(0, LISTED).map(({ row, sentence }, i) => (
        <p key={`${row} ${i}`}>{sentence}</p>
      ))}
      {wrong.length > LISTED && <p>And {wrong.length - LISTED} more.</p>}
      <PlainButton className="small" onClick={clearWrong}>
        Seen
      </PlainButton>
    </div>
  );
}

function SortHead({
  column,
  sorting,
  onSort,
}: {
  column: NumberColumn;
  sorting: Sorting;
  onSort: (next: Sorting) => void;
}): ReactNode {
  const by = SORTED_BY[column];
  if (!by) return <span className={`cell cell-${column}`}>{NUMBER_HEADS[column]}</span>;
  // Only one of the columns of time says that it is sorted by it.
  const isOn = sorting.by === by && (by !== 'time' || column === 'bar');
  return (
    <PlainButton
      className={`cell cell-${column}`}
      aria-label={`Sort by ${NUMBER_HEADS[column].toLowerCase()}`}
      onClick={() => onSort({ by, isDown: sorting.by === by ? !sorting.isDown : false })}
    >
      {NUMBER_HEADS[column]}
      {isOn && (sorting.isDown ? <IconArrowDown size={11} /> : <IconArrowUp size={11} />)}
    </PlainButton>
  );
}
