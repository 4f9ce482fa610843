import { useRef, useState, type ReactNode } from 'react';
import { NumberInput, type NumberInputProps } from '@mantine/core';

type Props = Omit<NumberInputProps, 'value' | 'onChange'> & {
  readonly value: number;
  readonly onKeep: (value: number) => void;
};

/** A number that is kept with Enter, as it is left, or at once as its arrows are clicked. */
export function KeptNumber({ value, onKeep, ...rest }: Props): ReactNode {
  const input = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string | number | null>(null);
  const shown = Number(value.toFixed(rest.decimalScale ?? 2));
  const keep = (from: string | number): void => {
    setTyped(null);
    const read = typeof from === 'number' ? from : parseFloat(from.replace('−', '-').replace(',', '.'));
    if (Number.isFinite(read) && read !== shown) onKeep(read);
  };
  return (
    <NumberInput
      size="xs"
      w={96}
      clampBehavior="none"
      {...rest}
      ref={input}
      value={typed ?? shown}
      onChange={(next) => (document.activeElement === input.current ? setTyped(next) : keep(next))}
      onBlur={() => typed !== null && keep(typed)}
      onKeyDown={(event) => {
        if (event.key === 'Enter' && typed !== null) keep(typed);
      }}
    />
  );
}
