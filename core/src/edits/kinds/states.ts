import * as Type from '@sinclair/typebox';
import {
  CONTROL_KINDS,
  MODES,
  channelOf,
  controlsOf,
  unknownControl,
  type ChannelKey,
  type ControlId,
  type Song,
} from '../../song/index.js';
import { closed, maybe, on, oneOf, type Checked } from '../../song/schemaParts.js';
import { previous, unchanged } from '../applied.js';
import { fieldsOf, type Applied, type EditKind } from '../editKind.js';
import { anyControl, pick } from '../examples.js';
import { firstWrong, noChannel } from '../laneChecks.js';
import { channel as channelKind } from './channel.js';
import { guard } from './guard.js';

const kinds = Type.Array(oneOf(CONTROL_KINDS));
const channelStates = closed(maybe({ mode: oneOf(MODES), trim: on, parked: on, safe: kinds }));
const controlStates = closed(maybe({ parked: on, safe: on, forget: Type.Literal(true) }));
/** Modes, trim and guards of many channels and controls at once, and what passes may write. `forget` as in `guard`. */
const schema = fieldsOf(
  'states',
  maybe({
    scope: kinds,
    channels: Type.Unsafe<{ readonly [key: ChannelKey]: Checked<typeof channelStates> }>({
      type: 'object',
      additionalProperties: channelStates,
    }),
    controls: Type.Unsafe<{ readonly [id: ControlId]: Checked<typeof controlStates> }>({
      type: 'object',
      additionalProperties: controlStates,
    }),
  }),
);
export type StatesEdit = Checked<typeof schema>;

/** The song with the states of its channels, and those that they had. What it does not have is passed over. */
function withChannels(song: Song, states: NonNullable<StatesEdit['channels']>): [Song, typeof states] {
  const before: { [key: ChannelKey]: (typeof states)[string] } = {};
  let next = song;
  for (const [channel, changes] of Object.entries(states)) {
    const now = channelOf(song, channel);
    if (!now) continue;
    before[channel] = previous(now, changes);
    next = channelKind.apply(next, { kind: 'channel', channel, changes }).song;
  }
  return [next, before];
}

function withControls(song: Song, states: NonNullable<StatesEdit['controls']>): [Song, typeof states] {
  const before: { [id: ControlId]: (typeof states)[string] } = {};
  let next = song;
  for (const [control, { forget, ...changes }] of Object.entries(states)) {
    if (!controlsOf(song).has(control)) continue;
    const { song: after, inverse } = guard.apply(next, {
      kind: 'guard',
      control,
      changes,
      ...(forget ? { forget } : {}),
    });
    next = after;
    if (inverse?.kind === 'guard')
      before[control] = { ...inverse.changes, ...(inverse.forget ? { forget: inverse.forget } : {}) };
  }
  return [next, before];
}

export const states: EditKind<StatesEdit> = {
  kind: 'states',
  does: 'modes, trim and guards of many channels and single controls at once, and the write scope; what is not said stays; no undo step',
  schema,
  isUndoStep: false,
  canFindNothing: true,
  wrong: (song, { channels = {}, controls = {} }) =>
    firstWrong([
      ...Object.keys(channels).map((key) => noChannel(song, key)),
      ...Object.keys(controls).map((id) => unknownControl(song, id)),
    ]),
  apply(song, { scope, channels = {}, controls = {} }): Applied {
    const [framed, wereChannels] = withChannels(song, channels);
    const [guarded, wereControls] = withControls(framed, controls);
    const writeScope = scope ?? song.settings.writeScope;
    const next = scope ? { ...guarded, settings: { ...song.settings, writeScope } } : guarded;
    if (next === song) return unchanged(song);
    const inverse: StatesEdit = {
      kind: 'states',
      ...(scope ? { scope: song.settings.writeScope } : {}),
      channels: wereChannels,
      controls: wereControls,
    };
    return { ...unchanged(song), song: next, inverse };
  },
  named: (_song, { channels = {}, controls = {} }) =>
    `Guards and modes of ${Object.keys(channels).length} channels and ${Object.keys(controls).length} controls`,
  example: (song, [a, b, c, d]) => ({
    kind: 'states',
    ...(d! < 0.3 ? { scope: CONTROL_KINDS.filter((_, i) => (d! * 97 * (i + 1)) % 1 < 0.6) } : {}),
    channels: {
      [pick(song.channels, a!).key]: { safe: b! < 0.3 ? [pick(CONTROL_KINDS, c!)] : [], parked: c! < 0.2 },
      [pick(song.channels, b!).key]: { mode: pick(MODES, d!), trim: c! < 0.3 },
    },
    controls: c! < 0.5 ? { [anyControl(song, d!)]: { safe: b! < 0.4, parked: a! < 0.3 } } : {},
  }),
};
