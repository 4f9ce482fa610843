import { controlsOf, fullName } from './control.js';
import { channelOf, type ControlId, type Song } from './document.js';
import type { Edit, MarkEdit, MarkList } from './edit.js';

const named = (song: Song, id: ControlId): string => (controlsOf(song).has(id) ? fullName(song, id) : id);

function several(song: Song, ids: readonly ControlId[]): string {
  const [first, ...more] = ids;
  if (first === undefined) return 'nothing';
  return more.length ? `${named(song, first)} and ${more.length} more` : named(song, first);
}

const LISTS: Record<MarkList, string> = { sections: 'Section', notes: 'Note', tempo: 'Tempo', meter: 'Meter' };
const MOST_WORDS = 24;

function nameOfMark({ list, remove, add }: MarkEdit): string {
  const mark = add ?? remove;
  const words = !mark
    ? ''
    : 'name' in mark
      ? mark.name
      : 'text' in mark
        ? mark.text
        : 'bpm' in mark
          ? String(mark.bpm)
          : `${mark.beats}/${mark.unit}`;
  const short = words.length > MOST_WORDS ? `${words.slice(0, MOST_WORDS)}…` : words;
  const act = !remove ? ' added' : !add ? ' removed' : add.t === remove.t ? '' : ' moved';
  return `${LISTS[list]} ${short}${act}`;
}

/** What an edit is called where it can be undone: `Pass 12: Lead level`, `Rest of Fiddle pan`. */
export function nameOfEdit(song: Song, edit: Edit, passNumber: number | null): string {
  switch (edit.kind) {
    case 'pass': {
      const ids = edit.receipt.lanes.map((lane) => lane.control);
      return `Pass ${passNumber ?? ''}: ${several(song, ids)}`.replace('Pass :', 'Pass:');
    }
    case 'foldTrim':
      return `Fold trim: ${several(song, edit.controls)}`;
    case 'carry':
      return `Carry on ${named(song, edit.control)}`;
    case 'bringBack': {
      const ids = [...new Set(edit.versions.map((version) => version.control))];
      return `${several(song, ids)} as ${edit.side === 'before' ? `before pass ${edit.pass}` : `pass ${edit.pass} left it`}`;
    }
    case 'rest':
      return `Rest of ${several(song, Object.keys(edit.values))}`;
    case 'lanes':
      return `Lanes of ${several(song, Object.keys(edit.lanes))}`;
    case 'channel':
      return `${edit.channel}: ${Object.keys(edit.changes).join(', ')}`;
    case 'guard':
      return `${named(song, edit.control)}: ${Object.keys(edit.changes).join(', ')}`;
    case 'mark':
      return nameOfMark(edit);
    case 'clip': {
      const what = edit.remove ? (edit.add ? 'Clip' : 'Clip removed') : 'Clip added';
      return `${what} of ${channelOf(song, edit.channel)?.name ?? edit.channel}`;
    }
    case 'describe':
      return `Name of ${edit.changes.name ?? channelOf(song, edit.channel)?.name ?? edit.channel}`;
    case 'title':
      return `Name of the song: ${edit.name}`;
    case 'settings':
      return `Settings: ${Object.keys(edit.changes).join(', ')}`;
  }
}
