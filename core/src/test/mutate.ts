import fc from 'fast-check';

type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** Values that break programs which trust what they are given. */
const ODD = [
  ...[
    null,
    true,
    false,
    0,
    -1,
    1e9,
    -1e300,
    1e308,
    Infinity,
    -Infinity,
    0.5,
    2 ** 53,
    '',
    'x',
    '__proto__',
    'constructor',
  ],
  ...['toString', '../../etc', '0', [], {}, [null], [[]], { length: 3 }, 'x'.repeat(5000)],
] as Json[];
const deep = (depth: number): Json => (depth ? [deep(depth - 1)] : []);

/** How one place of a document is changed: which (by numbers that pick a way down), and into what. */
const changes = fc.record({
  way: fc.array(fc.nat(1000), { minLength: 1, maxLength: 6 }),
  what: fc.constantFrom('odd', 'odd', 'odd', 'drop', 'double', 'reverse', 'swap', 'key', 'deep', 'nudge'),
  odd: fc.constantFrom(...ODD),
  by: fc.double({ min: -2, max: 2, noNaN: true }),
});
export type Change = typeof changes extends fc.Arbitrary<infer T> ? T : never;
/** A few changes to one document. */
export const mutations = fc.array(changes, { minLength: 1, maxLength: 4 });

/** A copy of a document with some places of it changed into what nobody would write. */
export function mutated(document: unknown, list: readonly Change[]): unknown {
  let json = JSON.parse(JSON.stringify(document)) as Json;
  for (const change of list) json = changed(json, change.way, change);
  return json;
}

function changed(node: Json, [pick, ...rest]: readonly number[], change: Change): Json {
  const keys = node && typeof node === 'object' ? Object.keys(node) : [];
  if (pick === undefined || !keys.length) return leaf(node, change);
  const key = keys[pick % keys.length]!;
  if (!rest.length) return atKey(node as { [key: string]: Json }, key, change);
  return withKey(node as { [key: string]: Json }, key, changed((node as { [key: string]: Json })[key]!, rest, change));
}

/** As JSON.parse makes it: a key `__proto__` is a field like any other. */
function withKey(node: { [key: string]: Json } | Json[], key: string, value: Json): Json {
  const copy = Array.isArray(node) ? [...node] : { ...node };
  Object.defineProperty(copy, key, { value, enumerable: true, configurable: true, writable: true });
  return copy as Json;
}

function atKey(node: { [key: string]: Json } | Json[], key: string, change: Change): Json {
  const value = (node as { [key: string]: Json })[key]!;
  switch (change.what) {
    case 'drop':
      if (Array.isArray(node)) return node.filter((_, i) => i !== Number(key));
      return Object.fromEntries(Object.entries(node).filter(([one]) => one !== key));
    case 'double':
      return Array.isArray(node) ? [...node, value] : withKey(node, `${key}${key}`, value);
    case 'reverse':
      return Array.isArray(node)
        ? [...node].reverse()
        : withKey(node, key, Array.isArray(value) ? [...value].reverse() : value);
    case 'swap': {
      const other = Object.values(node)[0] as Json;
      return withKey(node, key, other);
    }
    case 'key':
      return Array.isArray(node) ? [value, ...node] : withKey(node, String(change.odd), value);
    default:
      return withKey(node, key, leaf(value, change));
  }
}

function leaf(value: Json, { what, odd, by }: Change): Json {
  if (what === 'deep') return deep(2000);
  if (what === 'nudge' && typeof value === 'number') return value + by;
  return odd;
}
