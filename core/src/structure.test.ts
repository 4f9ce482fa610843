import { readFileSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const text = (file: string): string => readFileSync(join(root, file), 'utf8');
/** A list of words in the lint's settings. */
const listed = (name: string): string[] =>
  [...new RegExp(`const ${name} = \\[([^\\]]*)\\]`).exec(text('oxlint.config.js'))![1]!.matchAll(/'([^']+)'/g)].map(
    (m) => m[1]!,
  );
const folders = (of: string): string[] =>
  readdirSync(join(root, of), { withFileTypes: true }).flatMap((one) =>
    one.isDirectory() && one.name !== 'test' ? [one.name] : [],
  );

test.each([
  ['CORE_ORDER', 'core/src'],
  ['WEB_ORDER', 'web/src'],
])('what builds on what is told as lint holds it: %s', (name, of) => {
  const order = listed(name);
  expect([...order].sort()).toEqual(folders(of).sort());
  const line = text('docs/how-it-works.md')
    .split('\n')
    .find((one) => one.startsWith(`- \`${of}/\`: `))!;
  expect([...line.slice(line.indexOf(': ')).matchAll(/`([^`]+)`/g)].map((m) => m[1])).toEqual(order);
});

test('every file and folder that is named in how to carry it on is there', () => {
  const named = [...text('CONTRIBUTING.md').matchAll(/`((?:core|web)\/src\/[^`]*)`/g)].map((m) => m[1]!);
  expect(named.length).toBeGreaterThan(10);
  for (const path of named.filter((one) => !one.includes('NAME')))
    expect(() => readdirSync(dirname(join(root, path)))).not.toThrow();
  for (const path of named.filter((one) => /\.\w+$/.test(one) && !one.includes('NAME')))
    expect(text(path).length).toBeGreaterThan(0);
});
