import { Ajv, type ValidateFunction } from 'ajv';
import equal from 'fast-deep-equal';
import {
  REASONS,
  channelOf,
  controlOf,
  unknownControl,
  type Edit,
  type Lane,
  type MarkEdit,
  type MarkList,
  type Song,
} from '../song/index.js';
import { CLIP_SCHEMA, LANE_SCHEMA, MARK_SCHEMAS, POINTS_SCHEMA, SETTINGS_SCHEMA } from '../song/schema.js';
import { CONTROL_KINDS, MODES } from '../song/document.js';
import {
  MOST_SECONDS,
  firstWrong,
  called,
  isTooDeep,
  laneWrong,
  layerWrong,
  pointsWithDefaults,
  pointsWrong,
  spanWrong,
  trimWrong,
  valueWrong,
} from './laneChecks.js';
import { rangesWrong, type Read } from './songDocument.js';

const on = { type: 'boolean' } as const;
const closed = (properties: object, required: readonly string[] = []): object => ({
  type: 'object',
  properties,
  required,
  additionalProperties: false,
});
const time = { type: 'number', minimum: 0, maximum: MOST_SECONDS } as const;
const count = { type: 'integer', minimum: 0 } as const;
const id = { type: 'string', maxLength: 400 } as const;
const range = { type: 'array', items: time, minItems: 2, maxItems: 2 } as const;
const LAYERS = ['base', 'trim'];
const layerPoints = { control: id, layer: { enum: LAYERS }, points: POINTS_SCHEMA };
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

/** A refusal, as passes and receipts name them. */
const refusal = { control: id, reason: { enum: REASONS } };
const list = (properties: object, required = Object.keys(properties)): object => ({
  type: 'array',
  items: { type: 'object', properties, required },
});
const RECEIPT = {
  type: 'object',
  required: ['lap', 'from', 'to', 'lanes', 'refused', 'rested'],
  properties: {
    lap: count,
    from: time,
    to: time,
    lanes: list({
      control: id,
      layer: { enum: LAYERS },
      spans: { type: 'array', items: range },
      moves: count,
      points: count,
      maxDeviation: { type: 'number', minimum: 0 },
      clamped: { type: 'array', items: range },
    }),
    refused: list(refusal),
    rested: { type: 'array', items: id },
  },
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
      receipt: RECEIPT,
      fold: { type: 'array', items: id },
      heeded: list({ ...refusal, t: time }),
    },
    ['pieces', 'receipt'],
  ),
  foldTrim: closed({ kind: {}, controls: { type: 'array', items: id } }, ['controls']),
  carry: closed({ kind: {}, control: id, from: time, to: time, layer: { enum: LAYERS } }, ['control', 'from', 'to']),
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
      channel: id,
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
  guard: closed({ kind: {}, control: id, changes: closed({ parked: on, safe: on }), forget: on }, [
    'control',
    'changes',
  ]),
  settings: closed({ kind: {}, changes: { ...SETTINGS_SCHEMA, additionalProperties: false } }, ['changes']),
  mark: {
    oneOf: Object.entries(MARK_SCHEMAS).map(([list, mark]) => exchange({ list: { const: list } }, mark)),
    discriminator: { propertyName: 'list' },
    required: ['list'],
  },
  clip: exchange({ channel: id }, { ...CLIP_SCHEMA, required: WHOLE_CLIP }),
  describe: closed({ kind: {}, channel: id, changes: closed({ name: words, family: words }) }, ['channel', 'changes']),
  title: closed({ kind: {}, name: words }, ['name']),
};
let compiled: ReadonlyMap<string, ValidateFunction> | null = null;

/** Compiled when the first one is read. */
function checks(): ReadonlyMap<string, ValidateFunction> {
  const ajv = new Ajv({ strict: false, strictNumbers: true, discriminator: true });
  compiled ??= new Map(Object.entries(KINDS).map(([kind, schema]) => [kind, ajv.compile(schema)]));
  return compiled;
}

/** Checks an edit that came from outside against a song: its shape, that what it names is there, and every value and time. */
export function readEdit(song: Song, json: unknown): Read<Edit> {
  const kind = (json as { kind?: unknown } | null)?.kind;
  const check = typeof kind === 'string' ? checks().get(kind) : undefined;
  if (!check)
    return {
      ok: false,
      sentence: `There is no edit of kind ${called(kind)}; there are ${Object.keys(KINDS).join(', ')}.`,
    };
  if (!check(json)) {
    const error = check.errors![0]!;
    return {
      ok: false,
      sentence: `The ${String(kind)} edit is wrong at ${error.instancePath || 'its top'}: it ${error.message ?? 'is not valid'}.`,
    };
  }
  if (kind !== 'pass' && isTooDeep(json))
    return { ok: false, sentence: `The ${String(kind)} edit is nested deeper than any edit is.` };
  const edit = withDefaults(song, json as Edit);
  const sentence = whatIsWrong(song, edit);
  return sentence ? { ok: false, sentence } : { ok: true, value: edit };
}

/** An edit with the defaults of what its points and lanes do not say, as in a document. */
function withDefaults(song: Song, edit: Edit): Edit {
  switch (edit.kind) {
    case 'pass':
      return { ...edit, pieces: edit.pieces.map((piece) => ({ ...piece, points: pointsWithDefaults(piece.points) })) };
    case 'bringBack':
      return { ...edit, versions: edit.versions.map((one) => ({ ...one, points: pointsWithDefaults(one.points) })) };
    case 'lanes': {
      const lanes = Object.entries(edit.lanes).map(
        ([control, lane]) => [control, lane && wholeLane(song, control, lane)] as const,
      );
      return { ...edit, lanes: Object.fromEntries(lanes) };
    }
    default:
      return edit;
  }
}

function whatIsWrong(song: Song, edit: Edit): string | null {
  switch (edit.kind) {
    case 'channel':
    case 'describe':
      return channelOf(song, edit.channel) ? null : `The song has no channel “${edit.channel}”.`;
    case 'guard':
      return unknownControl(song, edit.control);
    case 'pass':
      return passWrong(song, edit);
    case 'foldTrim':
      return firstWrong(edit.controls.map((control) => unknownControl(song, control)));
    case 'carry':
      return unknownControl(song, edit.control) ?? carryWrong(song, edit);
    case 'bringBack':
      return firstWrong(edit.versions.map((version) => versionWrong(song, version)));
    case 'lanes':
      return firstWrong(
        Object.entries(edit.lanes).map(([control, lane]) =>
          lane ? laneWrong(song, control, lane) : unknownControl(song, control),
        ),
      );
    case 'rest':
      return firstWrong(
        Object.entries(edit.values).map(
          ([control, v]) => unknownControl(song, control) ?? valueWrong(song, control, 'base', v),
        ),
      );
    case 'mark':
      return markWrong(song, edit);
    case 'clip':
      return clipWrong(song, edit);
    case 'settings':
      return rangesWrong(edit.changes);
    case 'title':
      return null;
  }
}

function passWrong(song: Song, { pieces, fold = [], heeded = [] }: Edit & { kind: 'pass' }): string | null {
  return (
    firstWrong(
      pieces.map(
        (piece) =>
          layerWrong(song, piece) ?? spanWrong(`The span of ${piece.control}`, piece.span) ?? pointsWrong(song, piece),
      ),
    ) ?? firstWrong([...fold, ...heeded.map(({ control }) => control)].map((control) => unknownControl(song, control)))
  );
}

function versionWrong(song: Song, version: (Edit & { kind: 'bringBack' })['versions'][number]): string | null {
  const { control, layer, range, points, rest } = version;
  return (
    layerWrong(song, version) ??
    (range && spanWrong(`The range of ${control}`, range)) ??
    pointsWrong(song, { control, layer, points }) ??
    valueWrong(song, control, layer, rest)
  );
}

/** A lane with the defaults of what it does not say; one of no control is refused by its name later. */
function wholeLane(song: Song, control: string, lane: Partial<Lane>): Lane {
  const rest = lane.rest ?? (unknownControl(song, control) ? 0 : controlOf(song, control).rest);
  const { parked = false, safe = false } = lane;
  return { ...lane, rest, parked, safe, points: pointsWithDefaults(lane.points), trim: pointsWithDefaults(lane.trim) };
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

function carryWrong(song: Song, edit: Edit & { kind: 'carry' }): string | null {
  if (edit.from === edit.to) return `${edit.control} would be carried from ${edit.from} s to the same time.`;
  const late = Math.max(edit.from, edit.to);
  if (late > song.length)
    return `${edit.control} can be carried up to the song’s end at ${song.length} s, not to ${late} s.`;
  return trimWrong(song, edit.control, edit.layer);
}
