import { useEffect, useRef, type KeyboardEvent, type ReactNode } from 'react';
import { ActionIcon, Group, Text } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { closeByEscape } from '../hands/keys/pageKeys.js';

type Props = {
  readonly name: string;
  readonly onClose: () => void;
  /** What Enter does; nothing where every field keeps itself. */
  readonly onEnter?: () => void;
  readonly className?: string;
  readonly children: ReactNode;
};

/** A small sheet above the hand bar to type into. The song goes on meanwhile; Esc closes it. */
export function Sheet({ name, onClose, onEnter, className = '', children }: Props): ReactNode {
  const onKey = (event: KeyboardEvent): void => {
    const isText = event.target instanceof HTMLTextAreaElement && event.shiftKey;
    if (event.key !== 'Enter' || isText || !onEnter || (event.target as Element).closest('button, [role="listbox"]'))
      return;
    event.preventDefault();
    onEnter();
  };
  const close = useRef(onClose);
  close.current = onClose;
  const sheet = useRef<HTMLDivElement>(null);
  // Where no field of it takes the focus, the sheet does: Tab goes on from there. Keys of the song work meanwhile.
  useEffect(() => {
    if (!sheet.current?.contains(document.activeElement)) sheet.current?.focus();
  }, []);
  // Esc closes it wherever the focus is, and does nothing else: what is poised stays so.
  useEffect(() => closeByEscape(() => close.current()), []);
  return (
    <div ref={sheet} tabIndex={-1} className={`sheet ${className}`} role="dialog" aria-label={name} onKeyDown={onKey}>
      <Group justify="space-between" wrap="nowrap" mb={6}>
        <Text fz="sm" fw={700} truncate>
          {name}
        </Text>
        <ActionIcon variant="subtle" color="gray" size="sm" aria-label="Close" onClick={onClose}>
          <IconX size={14} />
        </ActionIcon>
      </Group>
      {children}
    </div>
  );
}
