import * as Type from '@sinclair/typebox';
import { CONTROL_KINDS, MODES, channelOf, type Channel } from '../../song/index.js';
import { closed, maybe, on, oneOf, type Checked } from '../../song/schemaParts.js';
import { previous, unchanged, withChannel } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel as key } from '../fields.js';
import { noChannel } from '../laneChecks.js';

/** What belongs to a channel and can be changed without being an undo step: its mode and guards, its solo. */
export type ChannelState = Pick<Channel, 'mode' | 'trim' | 'parked' | 'safe' | 'solo'>;

const changes = closed(
  maybe({ mode: oneOf(MODES), trim: on, parked: on, solo: on, safe: Type.Array(oneOf(CONTROL_KINDS)) }),
);
const schema = fieldsOf('channel', { channel: key, changes });
export type ChannelEdit = Checked<typeof schema>;

export const channel: EditKind<ChannelEdit> = {
  kind: 'channel',
  does: 'a channel’s mode, guards and solo; no undo step',
  schema,
  isUndoStep: false,
  canFindNothing: false,
  wrong: (song, edit) => noChannel(song, edit.channel),
  apply(song, edit) {
    const now = channelOf(song, edit.channel);
    if (!now) return unchanged(song);
    const inverse = { ...edit, changes: previous<ChannelState>(now, edit.changes) };
    return { ...unchanged(song), song: withChannel(song, now, edit.changes), inverse };
  },
  named: (_song, edit) => `${edit.channel}: ${Object.keys(edit.changes).join(', ')}`,
  example(song, [a, b, c]) {
    const one = pick(song.channels, a!).key;
    return b! < 0.5
      ? { kind: 'channel', channel: one, changes: { mode: pick(MODES, c!), solo: c! < 0.5 } }
      : {
          kind: 'channel',
          channel: one,
          changes: { trim: c! < 0.5, parked: c! < 0.2, safe: c! < 0.3 ? [pick(CONTROL_KINDS, b!)] : [] },
        };
  },
};
