import type { ComponentProps, ReactNode } from 'react';

/** A button without a look of its own, for places that have hundreds: nothing is worked out for it. */
export function PlainButton({ className = '', ...more }: ComponentProps<'button'>): ReactNode {
  return <button type="button" className={`plain ${className}`} {...more} />;
}
