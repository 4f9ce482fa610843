import { Curve } from '../curve/index.js';
import { bytesOfCurve, curveOfBytes } from './curveBytes.js';
import { DEEPEST } from './outside.js';
import { bytesOfText, textOfBytes } from '../song/text.js';
import { areFinite } from '../units/index.js';

/** What packed bytes are called where programs tell each other what they send. */
export const PACKED_TYPE = 'application/x-sure-hand-packed';

const MAGIC = 0x31504853; // SHP1
const HEAD = 8;

type Step = string | number;
/** The way to a curve in a document, field by field. */
type Way = readonly Step[];

/** A list of so many numbers, such as the times of picked points, goes as a column; a shorter one is read more easily where it stands. */
const LONG_LIST = 1000;

type Numbers = readonly number[];
/** A document without its curves, an empty list in place of each, and the curves by the way to them. */
export type Apart = { readonly bare: unknown; readonly curves: readonly { readonly at: Way; readonly curve: Curve }[] };
type Column = { readonly at: Way; readonly bytes: Uint8Array };

/** Takes the curves out of a document. What has none in it is shared, and nothing is looked for deeper than a document goes. */
export const apart = (document: unknown): Apart => takenApart(document, null);

/** The same; long lists of numbers are taken out too, where it is said where to. */
function takenApart(document: unknown, columns: Column[] | null): Apart {
  const curves: { at: Way; curve: Curve }[] = [];
  /** The way to what is looked at: one list, copied only where something is found. */
  const way: Step[] = [];
  const within = (step: Step, one: unknown): unknown => {
    if (!one || typeof one !== 'object') return one;
    way.push(step);
    const bare = without(one);
    way.pop();
    return bare;
  };
  const without = (value: object): unknown => {
    if (value instanceof Curve) {
      curves.push({ at: [...way], curve: value });
      return [];
    }
    if (way.length > DEEPEST) return value;
    if (Array.isArray(value)) {
      const bytes = columns && value.length >= LONG_LIST ? bytesOfList(value) : null;
      if (bytes) {
        columns!.push({ at: [...way], bytes });
        return [];
      }
      let list: unknown[] | null = null;
      for (let i = 0; i < value.length; i++) {
        // Most lists that are long are of plain numbers.
        if (typeof value[i] !== 'object') continue;
        const bare = within(i, value[i]);
        if (bare !== value[i]) (list ??= value.slice())[i] = bare;
      }
      return list ?? value;
    }
    let fields: [string, unknown][] | null = null;
    for (const key of Object.keys(value)) {
      const one = (value as Record<string, unknown>)[key];
      const bare = within(key, one);
      if (bare !== one) (fields ??= []).push([key, bare]);
    }
    if (!fields) return value;
    const bare = new Map(fields);
    return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, bare.has(key) ? bare.get(key) : one]));
  };
  return { bare: document && typeof document === 'object' ? without(document) : document, curves };
}

/**
 * A document (a song, an edit, an answer with either in it) as bytes: the length of its JSON, its JSON with the ways to its
 * curves and to its long lists of numbers, and the bytes of each of these behind their length: of a list its float64. Opened by
 * {@link unpacked} far faster than all of it as JSON.
 */
export function packed(document: unknown): Uint8Array<ArrayBuffer> {
  const columns: Column[] = [];
  const { bare, curves } = takenApart(document, columns);
  const lists = columns.length ? { lists: columns.map(({ at }) => at) } : {};
  const json = bytesOfText(JSON.stringify({ bare, ways: curves.map(({ at }) => at), ...lists }));
  const pieces = [...curves.map(({ curve }) => bytesOfCurve(curve)), ...columns.map((column) => column.bytes)];
  const bytes = new Uint8Array(pieces.reduce((sum, piece) => sum + 4 + piece.length, HEAD + json.length));
  const view = new DataView(bytes.buffer);
  view.setUint32(0, MAGIC, true);
  view.setUint32(4, json.length, true);
  bytes.set(json, HEAD);
  let at = HEAD + json.length;
  for (const piece of pieces) {
    view.setUint32(at, piece.length, true);
    bytes.set(piece, at + 4);
    at += 4 + piece.length;
  }
  return bytes;
}

/** Opens {@link packed}; throws a RangeError or a SyntaxError where the bytes are nothing that was packed. */
export function unpacked(bytes: Uint8Array): unknown {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < HEAD || view.getUint32(0, true) !== MAGIC) throw new RangeError('bytes that were not packed');
  let at = HEAD + view.getUint32(4, true);
  if (at > bytes.length) throw new RangeError('packed bytes cut short');
  const json = JSON.parse(textOfBytes(bytes.subarray(HEAD, at))) as
    | {
        readonly [key in 'bare' | 'ways' | 'lists']?: unknown;
      }
    | null;
  if (!Array.isArray(json?.ways)) throw new RangeError('packed bytes without the ways to their curves');
  const holder = { bare: json.bare };
  const next = (): Uint8Array => {
    if (at + 4 > bytes.length) throw new RangeError('packed bytes cut short');
    const from = at + 4;
    at = from + view.getUint32(at, true);
    if (at > bytes.length) throw new RangeError('packed bytes cut short');
    return bytes.subarray(from, at);
  };
  for (const way of json.ways) put(holder, way, curveOfBytes(next()));
  for (const way of Array.isArray(json.lists) ? json.lists : []) put(holder, way, listOfBytes(next()));
  return holder.bare;
}

/** Of lists that nothing changes any more; an edit is kept, sent and worked out elsewhere. */
const columnsOfLists = new WeakMap<object, Uint8Array>();

/** The float64 of a list; null where it has anything else in it than finite numbers. */
function bytesOfList(list: readonly unknown[]): Uint8Array | null {
  const known = columnsOfLists.get(list);
  if (known || !areFinite(list)) return known ?? null;
  const column = new Float64Array(list.length);
  // One by one: a list that is frozen is taken far more slowly as a whole.
  for (let i = 0; i < list.length; i++) column[i] = list[i]!;
  const bytes = new Uint8Array(column.buffer);
  if (Object.isFrozen(list)) columnsOfLists.set(list, bytes);
  return bytes;
}

/** Numbers of their float64, which need not stand where float64 may. */
function listOfBytes(bytes: Uint8Array): Numbers {
  if (bytes.length % 8) throw new RangeError('packed numbers cut short');
  // Copied, so that they stand where float64 may: what slices bytes that came from elsewhere may share them.
  const copy = new Float64Array(bytes.length / 8);
  new Uint8Array(copy.buffer).set(bytes);
  const list = Array.from(copy);
  if (!areFinite(list)) throw new RangeError('packed numbers that are none');
  return list;
}

/** A document of what {@link apart} made of it, changed on the way: its curves put back in their places. */
export function putTogether(bare: unknown, ways: readonly unknown[], curves: readonly Curve[]): unknown {
  const holder = { bare };
  ways.forEach((way, i) => put(holder, way, curves[i]!));
  return holder.bare;
}

/** Puts a curve, or a list, in its place, in which an empty list stands. */
function put(holder: { bare: unknown }, way: unknown, value: Curve | Numbers): void {
  let inside: unknown = holder;
  let key: Step = 'bare';
  for (const step of Array.isArray(way) ? (way as unknown[]) : [null]) {
    inside = isOwn(inside, key) ? inside[key] : null;
    if (typeof step !== 'string' && typeof step !== 'number')
      throw new RangeError('packed bytes with no way to what was taken out');
    key = step;
  }
  const there = isOwn(inside, key) ? inside[key] : null;
  if (!isOwn(inside, key) || !Array.isArray(there) || there.length)
    throw new RangeError('something packed with no place');
  // A field of the document's own, whatever it is called: nothing else is reached.
  Object.defineProperty(inside, key, { value, enumerable: true, configurable: true, writable: true });
}

const isOwn = (inside: unknown, key: Step): inside is { [key: Step]: unknown } =>
  inside !== null && typeof inside === 'object' && !(inside instanceof Curve) && Object.hasOwn(inside, key);
