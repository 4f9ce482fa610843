import type { Checked } from '../../song/schemaParts.js';
import { unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { words } from '../fields.js';

const schema = fieldsOf('title', { name: words });
export type TitleEdit = Checked<typeof schema>;

export const title: EditKind<TitleEdit> = {
  kind: 'title',
  does: 'what the song is called',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong: () => null,
  apply: (song, edit) => ({
    ...unchanged(song),
    song: { ...song, name: edit.name },
    inverse: { ...edit, name: song.name },
  }),
  named: (_song, edit) => `Name of the song: ${edit.name}`,
  example: (_song, [, b]) => ({ kind: 'title', name: `Song ${Math.round(99 * b!)}` }),
};
