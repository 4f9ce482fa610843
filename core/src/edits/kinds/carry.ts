import { carried } from '../../curve/index.js';
import { unknownControl } from '../../song/index.js';
import { maybe, seconds, type Checked } from '../../song/schemaParts.js';
import { changeCurves, nameOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl } from '../examples.js';
import { control, layer } from '../fields.js';
import { trimWrong } from '../laneChecks.js';

/**
 * A span's end drawn on to a later time, or its beginning back to an earlier one; see {@link carried}. `return`: how long the
 * line takes that leads back to the curve after a later end.
 */
const schema = fieldsOf('carry', { control, from: seconds, to: seconds, ...maybe({ layer, return: seconds }) });
export type CarryEdit = Checked<typeof schema>;

export const carry: EditKind<CarryEdit> = {
  kind: 'carry',
  does: 'a span’s end drawn on to a later time holding its value, or its beginning back to an earlier one; `return`, in seconds, is the line that leads back to the curve after a later end',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong(song, { control: id, from, to, layer: on }) {
    const unknown = unknownControl(song, id);
    if (unknown) return unknown;
    if (from === to) return `${id} would be carried from ${from} s to the same time.`;
    const late = Math.max(from, to);
    if (late > song.length) return `${id} can be carried up to the song’s end at ${song.length} s, not to ${late} s.`;
    return trimWrong(song, id, on);
  },
  apply: (song, { control: id, from, to, layer: on = 'base', return: back = 0 }) =>
    changeCurves(song, [id], on, ({ points, law }) => carried(points, law, { from, to, back, limit: song.length })),
  named: (song, edit) => `Carry on ${nameOf(song, edit.control)}`,
  example: (song, [a, b, c]) => ({
    kind: 'carry',
    control: anyControl(song, a!),
    from: Math.floor(60 * b!),
    to: Math.floor(60 * c!),
    layer: b! < 0.2 ? 'trim' : 'base',
    return: c! < 0.5 ? 0 : c!,
  }),
};
