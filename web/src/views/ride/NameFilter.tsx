import type { ReactNode } from 'react';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { filtered } from '../../store/viewSlice.js';

/** Where the name of what is looked at is typed: rows in Ride, strips on the Desk. Esc shows all again. */
export function NameFilter({ id, label, hint }: { id: string; label: string; hint: string }): ReactNode {
  const dispatch = useAppDispatch();
  const { filter } = useViewParts('filter');
  return (
    <input
      id={id}
      className="rows-by-name"
      aria-label={label}
      placeholder={hint}
      value={filter.name}
      onChange={(event) => dispatch(filtered({ name: event.currentTarget.value }))}
      onKeyDown={(event) => {
        if (event.key !== 'Escape' && event.key !== 'Enter') return;
        if (event.key === 'Escape') dispatch(filtered({ name: '' }));
        event.currentTarget.blur();
      }}
    />
  );
}
