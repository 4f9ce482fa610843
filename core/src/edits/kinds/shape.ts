import * as Type from '@sinclair/typebox';
import { WAVES, pointsOfWave, splice, waveOver, type Cycles } from '../../curve/index.js';
import { type Song } from '../../song/index.js';
import { maybe, oneOf, type Checked } from '../../song/schemaParts.js';
import { meterMap, quartersAt, timeOfQuarters, type MeterMap } from '../../time/index.js';
import { type Seconds } from '../../units/index.js';
import { changeCurves, nameOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyRange, pick } from '../examples.js';
import { control, layer, range } from '../fields.js';
import { layerWrong, spanWrong } from '../laneChecks.js';

/** A share of the throw, 0 … 1. */
const travel = Type.Number({ minimum: 0, maximum: 1 });
/** A shape at a musical rate drawn over a range: see {@link waveOver}. `perBeat`: cycles a quarter note. */
const schema = fieldsOf('shape', {
  control,
  range,
  wave: oneOf(WAVES),
  perBeat: Type.Number({ exclusiveMinimum: 0, maximum: 64 }),
  depth: travel,
  centre: travel,
  ...maybe({ phase: Type.Number({ minimum: -1000, maximum: 1000 }), seed: Type.Integer({ minimum: 0 }), layer }),
});
export type ShapeEdit = Checked<typeof schema>;

/** More points than that are no hand's work, and hold everything up. */
const MOST_POINTS = 200_000;

/** How time goes in cycles from a place of the song on. */
function cyclesFrom(map: MeterMap, from: Seconds, perBeat: number): Cycles {
  const start = quartersAt(map, from);
  return {
    cyclesAt: (t) => (quartersAt(map, t) - start) * perBeat,
    timeOf: (cycles) => timeOfQuarters(map, start + cycles / perBeat),
  };
}
const mapOf = (song: Song): MeterMap => meterMap(song.tempo, song.meter);

export const shape: EditKind<ShapeEdit> = {
  kind: 'shape',
  does: 'a shape drawn over a range, `perBeat` cycles a quarter note, `depth` in travel either side of the `centre`, `phase` in turns from the range’s start; within 0 … 1',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong(song, edit) {
    const wrong = layerWrong(song, edit) ?? spanWrong('The range for a shape', edit.range);
    if (wrong) return wrong;
    const cycles = cyclesFrom(mapOf(song), edit.range[0], edit.perBeat).cyclesAt(edit.range[1]);
    const most = pointsOfWave(edit, cycles);
    return most > MOST_POINTS
      ? `${Math.ceil(cycles)} cycles would be more than ${MOST_POINTS} points; take a shorter range or a slower rate.`
      : null;
  },
  apply(song, { control: id, range: where, wave, perBeat, depth, centre, phase = 0, seed = 1, layer: on = 'base' }) {
    const cycles = cyclesFrom(mapOf(song), where[0], perBeat);
    const breaks = song.tempo.map(({ t }) => t);
    return changeCurves(song, [id], on, ({ points, law, rest }) => {
      const drawn = waveOver({ wave, depth, centre, phase, seed }, law, where, cycles, breaks);
      return splice(points, law, rest, where, drawn);
    });
  },
  named: (song, edit) => `Shape on ${nameOf(song, edit.control)}`,
  example: (song, [a, b, c, d, e, f, g]) => ({
    kind: 'shape',
    control: anyControl(song, a!),
    range: anyRange(b!, c!),
    wave: pick(WAVES, d!),
    perBeat: 0.1 + 2 * e!,
    depth: f!,
    centre: g!,
    phase: 4 * d! - 2,
    seed: Math.floor(1000 * b!),
  }),
};
