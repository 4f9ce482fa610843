import { SOME_SETTINGS } from '../../song/schema.js';
import { closed, type Checked } from '../../song/schemaParts.js';
import { previous, unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { rangesWrong } from '../laneChecks.js';

const schema = fieldsOf('settings', { changes: closed(SOME_SETTINGS) });
export type SettingsEdit = Checked<typeof schema>;

export const settings: EditKind<SettingsEdit> = {
  kind: 'settings',
  does: 'the song’s settings; no undo step',
  schema,
  isUndoStep: false,
  canFindNothing: false,
  wrong: (_song, edit) => rangesWrong(edit.changes),
  apply: (song, edit) => ({
    ...unchanged(song),
    song: { ...song, settings: { ...song.settings, ...edit.changes } },
    inverse: { ...edit, changes: previous(song.settings, edit.changes) },
  }),
  named: (_song, edit) => `Settings: ${Object.keys(edit.changes).join(', ')}`,
  example: (_song, [, b, c]) => ({
    kind: 'settings',
    changes: b! < 0.5 ? { returnTime: c! } : { loop: c! < 0.5 ? null : [1, 2 + c!], deskMode: null },
  }),
};
