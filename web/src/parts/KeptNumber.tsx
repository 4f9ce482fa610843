import { useRef, useState, type ReactNode } from 'react';
import { NumberInput, type NumberInputProps } from '@mantine/core';
import { NUMBER_FIELD, numberTyped, numberWrong, type Bounds } from './numberTyped.js';
import { usePasted } from './usePasted.js';
import { WrongOver } from './WrongOver.js';

type Props = Omit<NumberInputProps, 'value' | 'onChange' | 'min' | 'max'> &
  Bounds & {
    /** Null where the field stands empty. */
    readonly value: number | null;
    readonly onKeep: (value: number) => void;
    /** What an empty field means; nothing where it means nothing. */
    readonly onNone?: () => void;
  };

/** A number that is kept with Enter, as it is left, or at once as its arrows are clicked; what can't be kept is told in a sentence. */
export function KeptNumber({ value, min, max, onKeep, onNone, ...rest }: Props): ReactNode {
  const input = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | number | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const pasted = usePasted({ min, max });
  const shown = value === null ? '' : Number(value.toFixed(rest.decimalScale ?? 2));
  const keep = (from: string | number): void => {
    setTyped(null);
    if (from === '') return value === null ? undefined : onNone?.();
    const sentence = numberWrong(from, { min, max });
    setWrong(sentence);
    const read = numberTyped(from, { min, max });
    if (!sentence && read !== null && read !== shown) onKeep(read);
  };
  const told = pasted.wrong ?? wrong;
  const seen = (): void => {
    setWrong(null);
    pasted.forget();
  };
  return (
    <WrongOver sentence={told} onSeen={seen}>
      <NumberInput
        {...NUMBER_FIELD}
        w={96}
        clampBehavior="none"
        {...rest}
        ref={input}
        min={min}
        max={max}
        value={typed ?? shown}
        error={told !== null}
        onPasteCapture={pasted.onPasteCapture}
        onChange={(next) => {
          seen();
          if (document.activeElement === input.current) setTyped(next);
          else keep(next);
        }}
        onBlur={() => {
          pasted.forget();
          if (typed !== null) keep(typed);
        }}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && typed !== null) keep(typed);
        }}
      />
    </WrongOver>
  );
}
