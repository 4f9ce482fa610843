import { type Checked } from '../../song/schemaParts.js';
import { changeLanes, namesOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyValue } from '../examples.js';
import { values } from '../fields.js';
import { valuesWrong } from '../laneChecks.js';

/** Resting values set by a hand, in each control's unit. */
const schema = fieldsOf('rest', { values });
export type RestEdit = Checked<typeof schema>;

export const rest: EditKind<RestEdit> = {
  kind: 'rest',
  does: 'resting values',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong: (song, edit) => valuesWrong(song, edit.values),
  apply: (song, edit) =>
    changeLanes(song, Object.keys(edit.values), (id, lane) => ({ ...lane, rest: edit.values[id]! })),
  named: (song, edit) => `Rest of ${namesOf(song, Object.keys(edit.values))}`,
  example(song, [a, b]) {
    const id = anyControl(song, a!);
    return { kind: 'rest', values: { [id]: anyValue(song, id, b!) } };
  },
};
