import equal from 'fast-deep-equal';
import * as Type from '@sinclair/typebox';
import { channelOf, controlsOf, sendWithDefaults, type Send, type Song } from '../../song/index.js';
import { SEND_SCHEMA } from '../../song/schema.js';
import { maybe, orNull, type Checked } from '../../song/schemaParts.js';
import { guardsOf, reframed, unchanged, withChannel } from '../applied.js';
import { channelsWrong } from '../channelChecks.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel, count, lanes } from '../fields.js';
import { lanesWrong, noChannel, wholeLanes } from '../laneChecks.js';

const oneSend = orNull(Type.Unsafe<Send>(SEND_SCHEMA));
/**
 * A send of a channel out, in, or in another's place. `at`, its place among the sends, and `lanes`, what its controls had,
 * stand in inverses.
 */
const schema = fieldsOf('send', { channel, remove: oneSend, add: oneSend, ...maybe({ at: count, lanes }) });
export type SendEdit = Checked<typeof schema>;

/** The song with the sends as they will be, its lanes not yet; the place of the one that went, or that came. */
function withFrame(
  song: Song,
  { channel: key, remove, add, at }: SendEdit,
): { readonly song: Song; readonly at: number } {
  const one = channelOf(song, key)!;
  const was = remove ? one.sends.findIndex((send) => equal(send, remove)) : one.sends.length;
  const rest = one.sends.filter((_, i) => !remove || i !== was);
  const place = at ?? was;
  const sends = add ? [...rest.slice(0, place), add, ...rest.slice(place)] : rest;
  return { song: withChannel(song, one, { sends }), at: was };
}

export const send: EditKind<SendEdit> = {
  kind: 'send',
  does: 'one send of a channel out, in, or in another’s place; a feedback loop is refused by name, the whole where a lane that would go is guarded; `at` and `lanes`, in inverses, are where it stood and what it had',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  complete(song, edit) {
    const { remove, add } = edit;
    const whole = { ...edit, remove: remove && sendWithDefaults(remove), add: add && sendWithDefaults(add) };
    if (!edit.lanes || !channelOf(song, edit.channel)) return whole;
    return { ...whole, lanes: wholeLanes(withFrame(song, whole).song, edit.lanes) };
  },
  wrong(song, edit) {
    const gone = noChannel(song, edit.channel);
    if (gone) return gone;
    const { kind, name, sends } = channelOf(song, edit.channel)!;
    if (kind === 'vca') return `${name} is a VCA, which has no audio to send.`;
    if (!edit.remove && !edit.add) return 'The send edit puts nothing in and takes nothing out.';
    if (edit.remove && !sends.some((one) => equal(one, edit.remove)))
      return `The send of ${name} to “${edit.remove.bus}” has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
    const framed = withFrame(song, edit).song;
    return channelsWrong(framed) ?? lanesWrong(framed, edit.lanes ?? {});
  },
  apply(song, edit) {
    const { channel: key, remove, add } = edit;
    if (remove && !channelOf(song, key)?.sends.some((one) => equal(one, remove))) return unchanged(song);
    if (!channelOf(song, key)) return unchanged(song);
    const { song: framed, at } = withFrame(song, edit);
    const goes = [...controlsOf(song).keys()].filter((id) => !controlsOf(framed).has(id));
    const refused = guardsOf(song, goes);
    if (refused.length) return unchanged(song, refused);
    const { song: after, changed, had } = reframed(song, framed, { goes, back: edit.lanes });
    const inverse = { kind: 'send', channel: key, remove: add, add: remove, at } as const;
    return { song: after, inverse: { ...inverse, ...had }, changed, refused: [] };
  },
  named(song, { channel: key, remove, add }) {
    const name = (one: string): string => channelOf(song, one)?.name ?? one;
    const act = !remove ? ' added' : !add ? ' removed' : '';
    return `Send of ${name(key)} to ${name((add ?? remove)!.bus)}${act}`;
  },
  example(song, [a, b, c, d]) {
    const { key, sends } = pick(song.channels, a!);
    const remove = sends.length && b! < 0.7 ? pick(sends, b! / 0.7) : null;
    const buses = song.channels.filter(({ kind }) => kind === 'bus');
    const bus = remove && c! < 0.5 ? remove.bus : buses.length ? pick(buses, c!).key : key;
    const add = { bus, tap: pick(['pre', 'post'] as const, d!), pan: pick(['follow', 'own'] as const, c!) };
    return { kind: 'send', channel: key, remove, add: remove && d! < 0.3 ? null : add };
  },
};
