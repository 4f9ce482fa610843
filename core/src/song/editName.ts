import { controlsOf, fullName } from './control.js';
import type { ControlId, Song } from './document.js';
import type { Edit } from './edit.js';

const named = (song: Song, id: ControlId): string => (controlsOf(song).has(id) ? fullName(song, id) : id);

function several(song: Song, ids: readonly ControlId[]): string {
  const [first, ...more] = ids;
  if (first === undefined) return 'nothing';
  return more.length ? `${named(song, first)} and ${more.length} more` : named(song, first);
}

/** What an edit is called where it can be undone: `Pass 12: Lead level`, `Rest of Fiddle pan`. */
export function nameOfEdit(song: Song, edit: Edit, passNumber: number | null): string {
  switch (edit.kind) {
    case 'pass': {
      const ids = edit.receipt.lanes.map((lane) => lane.control);
      return `Pass ${passNumber ?? ''}: ${several(song, ids)}`.replace('Pass :', 'Pass:');
    }
    case 'rest':
      return `Rest of ${several(song, Object.keys(edit.values))}`;
    case 'lanes':
      return `Lanes of ${several(song, Object.keys(edit.lanes))}`;
    case 'channel':
      return `${edit.channel}: ${Object.keys(edit.changes).join(', ')}`;
    case 'guard':
      return `${named(song, edit.control)}: ${Object.keys(edit.changes).join(', ')}`;
    case 'settings':
      return `Settings: ${Object.keys(edit.changes).join(', ')}`;
  }
}
