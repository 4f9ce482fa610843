import { expect, test } from '@jest/globals';
import { whyNotHere, type PagePlace } from './whyNotHere.js';

const HAS = ['AudioWorkletNode', 'SharedArrayBuffer', 'WebAssembly', 'Worker', 'indexedDB'];
const page = (changes: Partial<PagePlace> & { readonly lacks?: readonly string[] }): PagePlace => ({
  isSecureContext: true,
  crossOriginIsolated: true,
  location: { origin: 'http://127.0.0.1:5870', port: '5870' },
  has: (name) => HAS.includes(name) && !changes.lacks?.includes(name),
  ...changes,
});

test('a page that can play says nothing; one that can’t says why, and what to do', () => {
  expect(whyNotHere(page({}))).toBeNull();
  const onNetwork = { origin: 'http://10.0.0.5:5870', port: '5870' };
  const unsafe = {
    isSecureContext: false,
    crossOriginIsolated: false,
    lacks: ['AudioWorkletNode', 'SharedArrayBuffer'],
  };
  expect(whyNotHere(page({ ...unsafe, location: onNetwork }))).toMatch(
    /does not take http:\/\/10\.0\.0\.5:5870 for a safe address.*without HOST.* at http:\/\/localhost:5870; .*ssh -L 5870:/,
  );
  expect(whyNotHere(page({ ...unsafe, location: { origin: 'http://mix.house', port: '' } }))).toContain(
    'http://localhost:80;',
  );
  // A server between that drops what the page says of itself.
  expect(whyNotHere(page({ crossOriginIsolated: false, lacks: ['SharedArrayBuffer'] }))).toMatch(
    /sharing memory.*Cross-Origin headers/,
  );
  expect(whyNotHere(page({ lacks: ['AudioWorkletNode'] }))).toMatch(/has no audio worklet, .*browser of today/);
  expect(whyNotHere(page({ lacks: ['WebAssembly', 'indexedDB'] }))).toMatch(/no WebAssembly, no IndexedDB/);
});
