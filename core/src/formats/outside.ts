/** What something from outside is called in a sentence: its name where it has one of any sense. */
export const called = (name: unknown): string =>
  typeof name === 'string' ? JSON.stringify(name.slice(0, 60)) : name === null ? 'null' : `a ${typeof name}`;

/** How deep a document may be nested: what is deeper is made to break programs. */
export const DEEPEST = 64;

/** Whether something is nested deeper than any document is. Goes level by level, so that it is not itself broken by it. */
export function isTooDeep(json: unknown): boolean {
  let level: unknown[] = [json];
  for (let depth = 0; level.length; depth++) {
    if (depth > DEEPEST) return true;
    const next: unknown[] = [];
    for (const one of level)
      if (one && typeof one === 'object')
        for (const inner of Object.values(one)) if (inner && typeof inner === 'object') next.push(inner);
    level = next;
  }
  return false;
}
