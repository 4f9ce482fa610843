import type { ReactElement, ReactNode } from 'react';
import { Tooltip } from '@mantine/core';
import { useWindowEvent } from '@mantine/hooks';

type Props = { readonly sentence: string | null; readonly onSeen?: () => void; readonly children: ReactElement };

/** The sentence for what a narrow field can't take, over it: nothing round the field moves. It goes with the next press of a pointer. */
export function WrongOver({ sentence, onSeen, children }: Props): ReactNode {
  useWindowEvent('pointerdown', () => sentence !== null && onSeen?.());
  return (
    <Tooltip label={<span role="alert">{sentence}</span>} opened={sentence !== null} color="hand" multiline maw={320}>
      {children}
    </Tooltip>
  );
}
