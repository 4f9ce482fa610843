import {
  cloneElement,
  useEffect,
  useState,
  type PointerEvent,
  type PointerEventHandler,
  type ReactElement,
  type ReactNode,
} from 'react';
import { Tooltip, type TooltipProps } from '@mantine/core';
import { hearEscape } from '../hands/keys/pageKeys.js';
import { TIP_AFTER_MS } from './look.js';

type Pointed = { readonly onPointerEnter?: PointerEventHandler; readonly onPointerLeave?: PointerEventHandler };
type Props = Pick<TooltipProps, 'label' | 'position' | 'multiline' | 'maw' | 'openDelay'> & {
  /** What it is about: an element that hands on what the pointer does over it. */
  readonly children: ReactElement<Pointed>;
};

/**
 * Says what something is while it is pointed at; Escape takes it away. The tooltip is made only then: a view has hundreds of
 * places that have one.
 */
export function Tip({ children, ...more }: Props): ReactNode {
  const [target, point] = useState<Element | null>(null);
  return (
    <>
      {cloneElement(children, {
        onPointerEnter: ({ currentTarget, pointerType }: PointerEvent) => {
          if (pointerType !== 'touch') point(currentTarget);
        },
        onPointerLeave: () => point(null),
      })}
      {target && <Told target={target} {...more} />}
    </>
  );
}

/** The tooltip of what is pointed at: it knows where that is before it comes up. */
function Told({ target, openDelay = TIP_AFTER_MS, ...more }: Omit<Props, 'children'> & { target: Element }): ReactNode {
  const [isUp, come] = useState(false);
  useEffect(() => {
    const waiting = setTimeout(() => come(true), openDelay);
    const unheard = hearEscape(() => {
      clearTimeout(waiting);
      come(false);
    });
    return () => {
      clearTimeout(waiting);
      unheard();
    };
  }, [openDelay]);
  // By a reference, as marks are told of too: they are no HTML elements.
  return <Tooltip target={{ current: target as HTMLElement }} opened={isUp} {...more} />;
}
