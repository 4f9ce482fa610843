import { useRef, useState, type ReactNode } from 'react';
import { NumberInput, type NumberInputProps } from '@mantine/core';
import { NUMBER_FIELD, numberTyped, type Bounds } from './numberTyped.js';
import { usePasted } from './usePasted.js';
import { WrongOver } from './WrongOver.js';

type Props = Omit<NumberInputProps, 'value' | 'onChange' | 'min' | 'max'> &
  Bounds & {
    readonly value: number;
    /** Is given numbers alone, between the bounds, as they are typed. */
    readonly onValue: (value: number) => void;
  };

/** A number that counts as it is typed: whatever is heard and drawn of it follows. While what stands there is none, the last one counts. */
export function NumberField({ value, min, max, onValue, ...rest }: Props): ReactNode {
  const input = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | number | null>(null);
  const pasted = usePasted({ min, max });
  return (
    <WrongOver sentence={pasted.wrong} onSeen={pasted.forget}>
      <NumberInput
        {...NUMBER_FIELD}
        {...rest}
        ref={input}
        min={min}
        max={max}
        value={typed ?? value}
        error={pasted.wrong !== null || rest.error}
        onPasteCapture={pasted.onPasteCapture}
        onChange={(next) => {
          pasted.forget();
          // Its arrows are clicked without going into it.
          setTyped(document.activeElement === input.current ? next : null);
          const read = numberTyped(next, { min, max });
          if (read !== null && read !== value) onValue(read);
        }}
        onBlur={() => {
          setTyped(null);
          pasted.forget();
        }}
      />
    </WrongOver>
  );
}
