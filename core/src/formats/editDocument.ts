import { Ajv, type ValidateFunction } from 'ajv';
import equal from 'fast-deep-equal';
import {
  channelOf,
  unknownControl,
  controlOf,
  isInDb,
  type Edit,
  type Layer,
  type MarkEdit,
  type MarkList,
  type Song,
} from '../song/index.js';
import { CLIP_SCHEMA, LANE_SCHEMA, MARK_SCHEMAS, POINTS_SCHEMA, SETTINGS_SCHEMA } from '../song/schema.js';
import { CONTROL_KINDS, MODES } from '../song/document.js';
import { rangeOf } from '../units/index.js';
import type { Read } from './songDocument.js';

const on = { type: 'boolean' } as const;
const closed = (properties: object, required: readonly string[] = []): object => ({
  type: 'object',
  properties,
  required,
  additionalProperties: false,
});
const time = { type: 'number', minimum: 0 } as const;
const range = { type: 'array', items: time, minItems: 2, maxItems: 2 } as const;
const LAYERS = ['base', 'trim'];
const layerPoints = { control: { type: 'string' }, layer: { enum: LAYERS }, points: POINTS_SCHEMA };
const piece = {
  type: 'object',
  required: ['control', 'layer', 'span', 'points'],
  properties: { ...layerPoints, span: range },
};
const version = {
  type: 'object',
  required: ['control', 'layer', 'range', 'points', 'rest'],
  properties: { ...layerPoints, range: { anyOf: [{ type: 'null' }, range] }, rest: { type: 'number' } },
};

/** A clip in an edit says everything of itself. */
const WHOLE_CLIP = ['t', 'file', 'offset', 'length', 'gain', 'fadeIn', 'fadeOut', 'fadeInShape', 'fadeOutShape'];
const words = { type: 'string', minLength: 1, maxLength: 200 } as const;
/** One thing taken out, another put in; either may be null. */
const exchange = (where: object, thing: object): object => {
  const orNull = { anyOf: [{ type: 'null' }, thing] };
  return closed({ kind: {}, ...where, remove: orNull, add: orNull }, ['remove', 'add', ...Object.keys(where)]);
};

/** What each kind of edit needs. */
const KINDS: { readonly [kind in Edit['kind']]: object } = {
  pass: closed(
    {
      kind: {},
      pieces: { type: 'array', items: piece, minItems: 1 },
      receipt: { type: 'object', required: ['from', 'to', 'lanes'] },
      fold: { type: 'array', items: { type: 'string' } },
    },
    ['pieces', 'receipt'],
  ),
  foldTrim: closed({ kind: {}, controls: { type: 'array', items: { type: 'string' } } }, ['controls']),
  carry: closed({ kind: {}, control: { type: 'string' }, from: time, to: time, layer: { enum: LAYERS } }, [
    'control',
    'from',
    'to',
  ]),
  bringBack: closed(
    {
      kind: {},
      pass: { type: 'integer', minimum: 1 },
      side: { enum: ['before', 'after'] },
      versions: { type: 'array', items: version, minItems: 1 },
    },
    ['pass', 'side', 'versions'],
  ),
  rest: closed({ kind: {}, values: { type: 'object', additionalProperties: { type: 'number' } } }, ['values']),
  lanes: closed(
    { kind: {}, lanes: { type: 'object', additionalProperties: { anyOf: [{ type: 'null' }, LANE_SCHEMA] } } },
    ['lanes'],
  ),
  channel: closed(
    {
      kind: {},
      channel: { type: 'string' },
      changes: closed({
        mode: { enum: MODES },
        trim: on,
        parked: on,
        solo: on,
        safe: { type: 'array', items: { enum: CONTROL_KINDS } },
      }),
    },
    ['channel', 'changes'],
  ),
  guard: closed({ kind: {}, control: { type: 'string' }, changes: closed({ parked: on, safe: on }), forget: on }, [
    'control',
    'changes',
  ]),
  settings: closed({ kind: {}, changes: { ...SETTINGS_SCHEMA, additionalProperties: false } }, ['changes']),
  mark: {
    oneOf: Object.entries(MARK_SCHEMAS).map(([list, mark]) => exchange({ list: { const: list } }, mark)),
    discriminator: { propertyName: 'list' },
    required: ['list'],
  },
  clip: exchange({ channel: { type: 'string' } }, { ...CLIP_SCHEMA, required: WHOLE_CLIP }),
  describe: closed({ kind: {}, channel: { type: 'string' }, changes: closed({ name: words, family: words }) }, [
    'channel',
    'changes',
  ]),
  title: closed({ kind: {}, name: words }, ['name']),
};
let compiled: { readonly [kind: string]: ValidateFunction } | null = null;

/** Compiled when the first one is read. */
function checks(): { readonly [kind: string]: ValidateFunction } {
  const ajv = new Ajv({ strict: false, discriminator: true });
  compiled ??= Object.fromEntries(Object.entries(KINDS).map(([kind, schema]) => [kind, ajv.compile(schema)]));
  return compiled;
}

/** Checks an edit that came from outside against a song: its shape, and that what it names is there. */
export function readEdit(song: Song, json: unknown): Read<Edit> {
  const kind = (json as { kind?: unknown } | null)?.kind;
  const check = typeof kind === 'string' ? checks()[kind] : undefined;
  if (!check)
    return {
      ok: false,
      sentence: `There is no edit of kind ${JSON.stringify(kind)}; there are ${Object.keys(KINDS).join(', ')}.`,
    };
  if (!check(json)) {
    const error = check.errors![0]!;
    return {
      ok: false,
      sentence: `The ${String(kind)} edit is wrong at ${error.instancePath || 'its top'}: it ${error.message ?? 'is not valid'}.`,
    };
  }
  const edit = json as Edit;
  const sentence = whatItNamesIsWrong(song, edit);
  return sentence ? { ok: false, sentence } : { ok: true, value: edit };
}

function whatItNamesIsWrong(song: Song, edit: Edit): string | null {
  switch (edit.kind) {
    case 'channel':
      return channelOf(song, edit.channel) ? null : `The song has no channel “${edit.channel}”.`;
    case 'guard':
      return unknownControl(song, edit.control);
    case 'pass':
      return firstWrong([
        ...edit.pieces.map(
          (p) => unknownControl(song, p.control) ?? trimWrong(song, p) ?? spanWrong(p.control, p.span),
        ),
        ...(edit.fold ?? []).map((id) => unknownControl(song, id)),
      ]);
    case 'foldTrim':
      return firstWrong(edit.controls.map((id) => unknownControl(song, id)));
    case 'carry':
      return unknownControl(song, edit.control) ?? carryWrong(song, edit);
    case 'bringBack':
      return firstWrong(
        edit.versions.map(
          (v) => unknownControl(song, v.control) ?? trimWrong(song, v) ?? (v.range && spanWrong(v.control, v.range)),
        ),
      );
    case 'lanes':
      return firstWrong(Object.keys(edit.lanes).map((id) => unknownControl(song, id)));
    case 'rest':
      return firstWrong(
        Object.entries(edit.values).map(([id, v]) => unknownControl(song, id) ?? restWrong(song, id, v)),
      );
    case 'describe':
      return channelOf(song, edit.channel) ? null : `The song has no channel “${edit.channel}”.`;
    case 'mark':
      return markWrong(song, edit);
    case 'clip':
      return clipWrong(song, edit);
    case 'settings':
    case 'title':
      return null;
  }
}

const MARK_NAMES: Record<MarkList, string> = { sections: 'section', notes: 'note', tempo: 'tempo', meter: 'meter' };

function markWrong(song: Song, { list, remove, add }: MarkEdit): string | null {
  const name = MARK_NAMES[list];
  const items: readonly { readonly t: number }[] = song[list];
  if (!remove && !add) return `The ${name} edit puts nothing in and takes nothing out.`;
  if (remove && !items.some((item) => equal(item, remove)))
    return `The ${name} at ${remove.t} s has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
  if (add && add.t > song.length)
    return `The ${name} would stand at ${add.t} s, after the song’s end at ${song.length} s.`;
  const others = items.filter((item) => !(remove && equal(item, remove)));
  if (list === 'notes') return null;
  if (add && others.some((item) => item.t === add.t))
    return `There is a ${name} at ${add.t} s already; move or change that one.`;
  const first = list === 'sections' || add?.t === 0 || others.some((item) => item.t === 0);
  return first ? null : `A song needs a ${name} at its very start; change that one instead.`;
}

function clipWrong(song: Song, { channel: key, remove, add }: Edit & { kind: 'clip' }): string | null {
  const channel = channelOf(song, key);
  if (channel?.kind !== 'track') return `The song has no track “${key}” to have clips.`;
  if (!remove && !add) return 'The clip edit puts nothing in and takes nothing out.';
  if (remove && !channel.clips.some((clip) => equal(clip, remove)))
    return `The clip of ${channel.name} at ${remove.t} s has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
  if (!add) return null;
  if (!(add.length > 0)) return `The clip of ${channel.name} at ${add.t} s would have no length.`;
  if (add.fadeIn + add.fadeOut > add.length + 1e-9)
    return `The fades of ${channel.name}’s clip at ${add.t} s would be longer than the clip (${add.length} s).`;
  const overlaps = channel.clips.some(
    (clip) =>
      !(remove && equal(clip, remove)) && clip.t < add.t + add.length - 1e-9 && add.t < clip.t + clip.length - 1e-9,
  );
  return overlaps ? `The clip of ${channel.name} at ${add.t} s would lie over another.` : null;
}

const firstWrong = (sentences: readonly (string | null)[]): string | null => sentences.find((s) => s !== null) ?? null;
const spanWrong = (id: string, [from, to]: readonly [number, number]): string | null =>
  from < to ? null : `The span of ${id} ends at ${to} s, not after its beginning at ${from} s.`;

const trimWrong = (song: Song, { control, layer }: { control: string; layer?: Layer }): string | null =>
  layer === 'trim' && !isInDb(controlOf(song, control)) ? `${control} is not in dB, so it has no trim.` : null;

function carryWrong(song: Song, edit: Edit & { kind: 'carry' }): string | null {
  if (edit.from === edit.to) return `${edit.control} would be carried from ${edit.from} s to the same time.`;
  const late = Math.max(edit.from, edit.to);
  if (late > song.length)
    return `${edit.control} can be carried up to the song’s end at ${song.length} s, not to ${late} s.`;
  return trimWrong(song, edit);
}

function restWrong(song: Song, id: string, v: number): string | null {
  const { law } = controlOf(song, id);
  const { min, max } = rangeOf(law);
  return v > max || (v < min && law.kind !== 'level') ? `${id} takes ${min} to ${max}, not ${v}.` : null;
}
