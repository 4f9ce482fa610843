import equal from 'fast-deep-equal';
import { FADE_SHAPES, channelOf } from '../../song/index.js';
import { WHOLE_CLIP_SCHEMA } from '../../song/schema.js';
import { type Checked } from '../../song/schemaParts.js';
import { exchanged, unchanged, withChannel } from '../applied.js';
import { clipFileWrong } from '../channelChecks.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel, exchange } from '../fields.js';

/** One clip of a channel in place of another, or put in, or taken out. A clip in an edit says everything of itself. */
const schema = fieldsOf('clip', { channel, ...exchange(WHOLE_CLIP_SCHEMA) });
export type ClipEdit = Checked<typeof schema>;

/** Times that were added up may be so far apart and still be one. */
const SAME_SEC = 1e-9;

export const clip: EditKind<ClipEdit> = {
  kind: 'clip',
  does: 'one clip of a track out, in, or in another’s place',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong(song, { channel: key, remove, add }) {
    const track = channelOf(song, key);
    if (track?.kind !== 'track') return `The song has no track “${key}” to have clips.`;
    if (!remove && !add) return 'The clip edit puts nothing in and takes nothing out.';
    if (remove && !track.clips.some((one) => equal(one, remove)))
      return `The clip of ${track.name} at ${remove.t} s has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
    if (!add) return null;
    const odd = add.file === remove?.file ? null : clipFileWrong(add, track.name);
    if (odd) return odd;
    if (!(add.length > 0)) return `The clip of ${track.name} at ${add.t} s would have no length.`;
    if (add.fadeIn + add.fadeOut > add.length + SAME_SEC)
      return `The fades of ${track.name}’s clip at ${add.t} s would be longer than the clip (${add.length} s).`;
    const overlaps = track.clips.some(
      (one) =>
        !(remove && equal(one, remove)) &&
        one.t < add.t + add.length - SAME_SEC &&
        add.t < one.t + one.length - SAME_SEC,
    );
    return overlaps ? `The clip of ${track.name} at ${add.t} s would lie over another.` : null;
  },
  apply(song, edit) {
    const track = channelOf(song, edit.channel);
    const clips = track && exchanged(track.clips, edit.remove, edit.add);
    if (!clips) return unchanged(song);
    const inverse = { ...edit, remove: edit.add, add: edit.remove };
    return { ...unchanged(song), song: withChannel(song, track, { clips }), inverse };
  },
  named(song, { channel: key, remove, add }) {
    const what = remove ? (add ? 'Clip' : 'Clip removed') : 'Clip added';
    return `${what} of ${channelOf(song, key)?.name ?? key}`;
  },
  example(song, [a, b, c, d]) {
    const { key, clips } = song.channels.find(({ kind }) => kind === 'track') ?? song.channels[0]!;
    const remove = clips.length && a! < 0.7 ? pick(clips, a! / 0.7) : null;
    const made = {
      t: Math.floor(b! * 50),
      file: 'voice.wav',
      offset: c!,
      length: 0.5,
      gain: 12 * d! - 6,
      fadeIn: 0.2 * c!,
      fadeOut: 0.2 * d!,
      fadeInShape: pick(FADE_SHAPES, c!),
      fadeOutShape: pick(FADE_SHAPES, d!),
    };
    return { kind: 'clip', channel: key, remove, add: remove && b! < 0.3 ? null : made };
  },
};
