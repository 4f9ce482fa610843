import { useRef, type KeyboardEvent, type ReactNode } from 'react';
import { SHAPES } from '@sure-hand/core/curve';
import type { NumberColumn } from '../../hands/numbers.js';

export const NUMBER_HEADS: Readonly<Record<NumberColumn, string>> = {
  bar: 'Bar',
  clock: 'Min:sec',
  code: 'Timecode',
  value: 'Value',
  shape: 'Shape',
  bend: 'Bend',
};

type Props = {
  readonly column: NumberColumn;
  readonly text: string;
  readonly isAt: boolean;
  /** What is typed into it; null while nothing is. */
  readonly typing: string | null;
  readonly onOpen: () => void;
  readonly onTyping: (text: string | null) => void;
  readonly onKeep: (text: string) => void;
  readonly onGo: (how: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => void;
};

/** One number of a point: to be read, or typed into once it is opened. */
export function NumberCell(props: Props): ReactNode {
  const { column, text, isAt, typing, onOpen, onGo } = props;
  if (typing !== null)
    return (
      <span role="gridcell">
        <TypedCell {...props} typing={typing} />
      </span>
    );
  return (
    <span
      role="gridcell"
      className={`cell cell-${column} ${isAt ? 'is-at' : ''}`}
      onPointerDown={(event) => {
        event.preventDefault();
        onGo(event);
      }}
      onDoubleClick={onOpen}
    >
      {text}
    </span>
  );
}

function TypedCell({ column, typing, onTyping, onKeep }: Props & { typing: string }): ReactNode {
  const isOver = useRef(false);
  const over = (then: () => void): void => {
    if (isOver.current) return;
    isOver.current = true;
    then();
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement | HTMLSelectElement>): void => {
    event.stopPropagation();
    const { value } = event.currentTarget;
    if (event.key === 'Escape') over(() => onTyping(null));
    if (event.key !== 'Enter' && event.key !== 'Tab') return;
    event.preventDefault();
    over(() => onKeep(value));
  };
  const field = {
    autoFocus: true,
    className: `cell cell-${column}`,
    'aria-label': NUMBER_HEADS[column],
    value: typing,
    onKeyDown,
    onBlur: () => over(() => onKeep(typing)),
  } as const;
  if (column === 'shape')
    return (
      <select
        {...field}
        data-keeps="up down home end enter tab escape"
        onChange={(event) => onTyping(event.currentTarget.value)}
      >
        {SHAPES.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
    );
  return (
    <input
      {...field}
      onFocus={(event) => event.currentTarget.select()}
      onChange={(event) => onTyping(event.currentTarget.value)}
    />
  );
}
