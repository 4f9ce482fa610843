import { channelOf, type Channel } from '../../song/index.js';
import { closed, maybe, type Checked } from '../../song/schemaParts.js';
import { previous, unchanged, withChannel } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel, words } from '../fields.js';
import { noChannel } from '../laneChecks.js';

/** What a channel is called and where it stands among the others. */
export type ChannelWords = Pick<Channel, 'name' | 'family'>;

const schema = fieldsOf('describe', { channel, changes: closed(maybe({ name: words, family: words })) });
export type DescribeEdit = Checked<typeof schema>;

export const describe: EditKind<DescribeEdit> = {
  kind: 'describe',
  does: 'what a channel is called',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong: (song, edit) => noChannel(song, edit.channel),
  apply(song, edit) {
    const now = channelOf(song, edit.channel);
    if (!now) return unchanged(song);
    const inverse = { ...edit, changes: previous<ChannelWords>(now, edit.changes) };
    return { ...unchanged(song), song: withChannel(song, now, edit.changes), inverse };
  },
  named: (song, edit) => `Name of ${edit.changes.name ?? channelOf(song, edit.channel)?.name ?? edit.channel}`,
  example: (song, [a, b, c]) => ({
    kind: 'describe',
    channel: pick(song.channels, a!).key,
    changes: { name: `Name ${Math.round(99 * b!)}`, family: pick(['Low', 'High'], c!) },
  }),
};
