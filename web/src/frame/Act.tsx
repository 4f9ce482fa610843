import type { ReactNode } from 'react';
import { PlainButton } from '../parts/PlainButton.js';
import { Tip } from '../parts/Tip.js';

/** One of the acts that fit now, in the hand bar. */
export function Act({
  label,
  onClick,
  children,
}: {
  label: string;
  onClick: () => void;
  children: ReactNode;
}): ReactNode {
  return (
    <Tip label={label}>
      <PlainButton className="act" onClick={onClick}>
        {children}
      </PlainButton>
    </Tip>
  );
}
