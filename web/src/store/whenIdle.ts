/** Does something once the browser has nothing else to do, after so many milliseconds at the latest; gives back what calls it off. */
export function whenIdle(act: () => void, withinMs: number): () => void {
  // Not every browser says when it is idle.
  if (!('requestIdleCallback' in globalThis)) {
    const timer = setTimeout(act, SOON_MS);
    return () => clearTimeout(timer);
  }
  const idle = requestIdleCallback(act, { timeout: withinMs });
  return () => cancelIdleCallback(idle);
}

/** What is drawn at once has been drawn by then. */
const SOON_MS = 50;
