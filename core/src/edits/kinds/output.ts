import { channelOf, type Song } from '../../song/index.js';
import type { Checked } from '../../song/schemaParts.js';
import { unchanged, withChannel } from '../applied.js';
import { channelsWrong } from '../channelChecks.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel } from '../fields.js';
import { noChannel } from '../laneChecks.js';

/** Where a track or a bus goes out to: a bus or the main. */
const schema = fieldsOf('output', { channel, to: channel });
export type OutputEdit = Checked<typeof schema>;

const goingOut = (song: Song, { channel: key, to }: OutputEdit): Song =>
  withChannel(song, channelOf(song, key)!, { output: to });

export const output: EditKind<OutputEdit> = {
  kind: 'output',
  does: 'where a track or a bus goes out to: a bus, or the main; a feedback loop is refused by name',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong(song, edit) {
    const gone = noChannel(song, edit.channel);
    if (gone) return gone;
    const { kind, name } = channelOf(song, edit.channel)!;
    if (kind === 'main') return `${name} goes out of the song; tracks and buses have an output.`;
    return kind === 'vca' ? `${name} is a VCA, which no audio goes through.` : channelsWrong(goingOut(song, edit));
  },
  apply(song, edit) {
    const now = channelOf(song, edit.channel);
    if (!now || now.output === edit.to) return unchanged(song);
    return { ...unchanged(song), song: goingOut(song, edit), inverse: { ...edit, to: now.output } };
  },
  named(song, { channel: key, to }) {
    const name = (one: string): string => channelOf(song, one)?.name ?? one;
    return `Output of ${name(key)}: ${name(to)}`;
  },
  example: (song, [a, b]) => ({
    kind: 'output',
    channel: pick(song.channels, a!).key,
    to: pick(song.channels, b!).key,
  }),
};
