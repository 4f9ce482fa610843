import equal from 'fast-deep-equal';
import * as Type from '@sinclair/typebox';
import { WAVES } from '../../curve/index.js';
import { swayWithDefaults, swayWrong, unknownControl, type Lane, type Sway } from '../../song/index.js';
import { SWAY_SCHEMA } from '../../song/schema.js';
import { orNull, type Checked } from '../../song/schemaParts.js';
import { changeLanes, nameOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, pick } from '../examples.js';
import { control } from '../fields.js';

/** A control's sway, another one, or none (page 8). The curve of its depth stays while it has one, and goes with it. */
const schema = fieldsOf('sway', { control, sway: Type.Unsafe<Sway | null>(orNull(SWAY_SCHEMA)) });
export type SwayEdit = Checked<typeof schema>;

/** A lane without its sway. */
export const steadyLane = ({ sway: _sway, ...lane }: Lane): Lane => lane;

export const sway: EditKind<SwayEdit> = {
  kind: 'sway',
  does: 'a slow movement on top of a control’s curve: `wave`, `perBeat` cycles a quarter note or `hz`, `depth` in travel either side, `phase` in turns from the song’s start, `on`; null takes it away, the curve of its depth with it; not of switches, nor of depths',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete: (_song, edit) => ({ ...edit, sway: edit.sway && swayWithDefaults(edit.sway) }),
  wrong: (song, edit) =>
    unknownControl(song, edit.control) ?? (edit.sway ? swayWrong(song, edit.control, edit.sway) : null),
  apply: (song, { control: id, sway: given }) =>
    changeLanes(song, [id], (_id, lane) => {
      if (equal(lane.sway ?? null, given)) return lane;
      return given ? { ...lane, sway: given } : steadyLane(lane);
    }),
  named(song, { control: id, sway: given }) {
    return `Sway of ${nameOf(song, id)} ${given ? (given.on ? 'set' : 'off') : 'removed'}`;
  },
  example(song, [a, b, c, d, e, f]) {
    const id = anyControl(song, a!);
    const rate = c! < 0.4 ? { hz: 0.01 + 2 * d! } : { perBeat: 0.05 + 0.5 * d! };
    const given = swayWithDefaults({ wave: pick(WAVES, e!), depth: f! / 2, phase: 4 * b! - 2, on: f! < 0.8, ...rate });
    return { kind: 'sway', control: id, sway: b! < 0.2 ? null : given };
  },
};
