import { useState, type ReactNode } from 'react';
import { NavLink, ScrollArea, TextInput } from '@mantine/core';
import { controlsOf, fullName, type ControlId } from '@sure-hand/core/song';
import { quoted } from '@sure-hand/core/units';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';

type Props = { readonly onClose: () => void; readonly onFound: (id: ControlId) => void };

/** Finds a control by any part of its name and takes it in hand; those with curves come first. The song goes on meanwhile. */
export function FindControl({ onClose, onFound }: Props): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const [sought, setSought] = useState('');
  const [at, setAt] = useState(0);
  const words = sought.toLowerCase().split(/\s+/);
  // What is called just so comes first, then what has a curve.
  const place = ({ id, name }: { id: ControlId; name: string }): number => {
    if (name.toLowerCase() === words.join(' ')) return 0;
    return (song.lanes[id]?.points.length ?? 0) > 0 ? 1 : 2;
  };
  const found = [...controlsOf(song).keys()]
    .map((id) => ({ id, name: fullName(song, id) }))
    .filter(({ name }) => words.every((word) => name.toLowerCase().includes(word)))
    .sort((a, b) => place(a) - place(b));
  const take = (id: ControlId | undefined): void => {
    if (id) onFound(id);
    onClose();
  };
  return (
    <Sheet name="Controls by name" className="sheet-find" onClose={onClose}>
      <TextInput
        autoFocus
        placeholder="Find a control: lead pan"
        aria-label="Find a control"
        value={sought}
        onChange={(event) => {
          setSought(event.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt(Math.min(found.length - 1, at + 1));
          if (event.key === 'ArrowUp') setAt(Math.max(0, at - 1));
          if (event.key === 'Enter') take(found[at]?.id);
        }}
      />
      <ScrollArea h={280} mt="xs" viewportProps={{ tabIndex: 0, 'aria-label': 'Controls found', role: 'group' }}>
        {found.map(({ id, name }, i) => (
          <NavLink
            key={id}
            active={i === at}
            color="gray"
            label={name}
            description={(song.lanes[id]?.points.length ?? 0) > 0 ? 'has a curve' : undefined}
            onClick={() => take(id)}
          />
        ))}
        {found.length === 0 && <NavLink disabled label={`No control is called ${quoted(sought)}.`} />}
      </ScrollArea>
    </Sheet>
  );
}
