/** What of a browser, and of the address a page is at, decides whether a song can be played there. */
export type PagePlace = {
  readonly isSecureContext: boolean;
  readonly crossOriginIsolated: boolean;
  readonly location: Pick<Location, 'origin' | 'port'>;
  /** Whether the browser has something, by its name among the globals. */
  has(name: string): boolean;
};

/** What the program cannot do without, and how it is called in a sentence. */
const NEEDED = [
  ['AudioWorkletNode', 'audio worklet'],
  ['SharedArrayBuffer', 'shared memory'],
  ['WebAssembly', 'WebAssembly'],
  ['Worker', 'web workers'],
  ['indexedDB', 'IndexedDB'],
] as const;

/** The page as it is. */
const thisPage = (): PagePlace => ({
  isSecureContext: globalThis.isSecureContext,
  crossOriginIsolated: globalThis.crossOriginIsolated,
  location: globalThis.location,
  has: (name) => name in globalThis,
});

/** Why a song can't be played in this page, and what to do about it; null where it can. */
export function whyNotHere(page: PagePlace = thisPage()): string | null {
  const { origin, port } = page.location;
  if (!page.isSecureContext) {
    const at = port || '80';
    return (
      `The browser does not take ${origin} for a safe address, and gives a page there no audio thread and no memory to share with it. ` +
      `Start Sure Hand without HOST and open it on the machine it runs on, at http://localhost:${at}; on another one at the same address, ` +
      `through a tunnel (ssh -L ${at}:localhost:${at} and that machine).`
    );
  }
  const missing = NEEDED.flatMap(([name, word]) => (page.has(name) ? [] : [word]));
  // Memory is shared only in a page that is kept apart.
  if (!page.crossOriginIsolated && missing.every((word) => word === 'shared memory'))
    return (
      'The browser keeps this page from sharing memory with its audio thread: what the server says about that did not come through. ' +
      'Open Sure Hand at its server’s own address; whatever stands between has to pass on its Cross-Origin headers.'
    );
  if (missing.length)
    return `This browser has no ${missing.join(', no ')}, and Sure Hand plays nothing without. Open it in a browser of today.`;
  return null;
}
