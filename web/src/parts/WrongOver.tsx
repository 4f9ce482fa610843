import type { ReactElement, ReactNode } from 'react';
import { Tooltip } from '@mantine/core';

/** The sentence for what a narrow field can't take, over it: nothing round the field moves. */
export function WrongOver({
  sentence,
  children,
}: {
  readonly sentence: string | null;
  readonly children: ReactElement;
}): ReactNode {
  return (
    <Tooltip label={<span role="alert">{sentence}</span>} opened={sentence !== null} color="hand" multiline maw={320}>
      {children}
    </Tooltip>
  );
}
