import { useRef, useState, type ReactNode } from 'react';
import { TextInput, type TextInputProps } from '@mantine/core';
import { parseTime, printTime, type MeterMap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { useAppSelector } from '../store/store.js';

type Props = Omit<TextInputProps, 'value' | 'onChange'> & {
  readonly map: MeterMap;
  readonly t: Seconds;
  /** The typed time; null while what stands there is none. */
  readonly onTime: (t: Seconds | null) => void;
};

/** A time that can be typed: as bars where the position is read in bars, else as minutes and seconds. */
export function TimeField({ map, t, onTime, ...rest }: Props): ReactNode {
  const isBars = useAppSelector((state) => state.view.format === 'bars');
  const print = (at: Seconds): string => printTime(isBars ? 'bars' : 'clock', map, at);
  const [typed, setTyped] = useState<string | null>(null);
  /** The time that stood there as the field was come to, last with nothing wrong in it. */
  const come = useRef(t);
  const isWrong = typed !== null && parseTime(typed, map) === null;
  return (
    <TextInput
      {...rest}
      value={typed ?? print(t)}
      error={isWrong ? 'A bar such as 17.3, or a time such as 1:02.5' : rest.error}
      onChange={(event) => {
        const text = event.currentTarget.value;
        setTyped(text);
        // What is not changed stays exact, though it is printed in hundredths.
        onTime(text === print(t) ? t : parseTime(text, map));
      }}
      onKeyDown={(event) => {
        // What was typed since it was come to is given up; in a sheet Esc gives up the whole of that.
        if (event.key === 'Escape' && typed !== null) {
          setTyped(null);
          onTime(come.current);
        }
        rest.onKeyDown?.(event);
      }}
      onFocus={(event) => {
        if (typed === null) come.current = t;
        rest.onFocus?.(event);
      }}
      onBlur={(event) => {
        if (!isWrong) setTyped(null);
        rest.onBlur?.(event);
      }}
    />
  );
}
