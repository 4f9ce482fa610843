import { mappingBetween, pieceFor, splice, type Range } from '../../curve/index.js';
import { controlOf, isInDb, isSwitch, laneOf, type ControlId } from '../../song/index.js';
import { MOST_SECONDS, maybe, seconds, type Checked } from '../../song/schemaParts.js';
import { changeCurves, curveOf, nameOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyRange } from '../examples.js';
import { control, layer, range } from '../fields.js';
import { layerWrong, spanWrong } from '../laneChecks.js';

/**
 * A range of one lane put into another lane, another layer or another time (rules, 6, Copy). `toLayer` is the layer it comes to, the
 * same where it is not said.
 */
const schema = fieldsOf('copy', {
  from: control,
  range,
  to: control,
  at: seconds,
  ...maybe({ layer, toLayer: layer }),
});
export type CopyEdit = Checked<typeof schema>;

export const copy: EditKind<CopyEdit> = {
  kind: 'copy',
  does: 'a range of a lane put into a lane at a time: between levels by value, else by travel; a base in dB comes to a trim (`toLayer`) as an offset against its own value at the range’s start; a switch goes only to switches',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong(song, { from, range: where, to, at, layer: on = 'base', toLayer = on }) {
    const wrong =
      layerWrong(song, { control: from, layer: on }) ??
      layerWrong(song, { control: to, layer: toLayer }) ??
      spanWrong('The range to copy', where);
    if (wrong) return wrong;
    if (isSwitch(controlOf(song, from)) && !isSwitch(controlOf(song, to)))
      return `${from} is a switch, which is copied only to switches, not to ${to}.`;
    const end = at + where[1] - where[0];
    return end > MOST_SECONDS ? `The copy would end at ${end} s; the last time there is is ${MOST_SECONDS} s.` : null;
  },
  apply(song, { from, range: where, to, at, layer: on = 'base', toLayer = on }) {
    const source = curveOf(song, from, laneOf(song, from), on);
    return changeCurves(song, [to], toLayer, ({ points, law, rest }) => {
      const span: Range = [at, at + (where[1] - where[0])];
      return splice(points, law, rest, span, pieceFor(source, where, { law, span }, mappingBetween(source.law, law)));
    });
  },
  named: (song, edit) => `${nameOf(song, edit.from)} copied to ${nameOf(song, edit.to)}`,
  example(song, [a, b, c, d, e, f]) {
    const from = anyControl(song, a!);
    const isLike = (id: ControlId): boolean => !isSwitch(controlOf(song, from)) || isSwitch(controlOf(song, id));
    const to = anyControl(song, b!);
    const areInDb = [from, to].every((id) => isInDb(controlOf(song, id)));
    const layers: Pick<CopyEdit, 'layer' | 'toLayer'> = areInDb && f! < 0.4 ? { layer: 'base', toLayer: 'trim' } : {};
    return { kind: 'copy', from, range: anyRange(c!, d!), to: isLike(to) ? to : from, at: 30 * e!, ...layers };
  },
};
