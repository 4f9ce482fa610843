/**
 * The first ring found when going from names to what each leads to: the names in order, the first again at the end.
 * Null where none leads back to itself.
 */
export function findRing(starts: readonly string[], leadsTo: (name: string) => readonly string[]): string[] | null {
  const clear = new Set<string>();
  const follow = (trail: readonly string[]): string[] | null => {
    const here = trail.at(-1)!;
    for (const next of leadsTo(here)) {
      if (clear.has(next)) continue;
      const from = trail.indexOf(next);
      const ring = from >= 0 ? [...trail.slice(from), next] : follow([...trail, next]);
      if (ring) return ring;
    }
    clear.add(here);
    return null;
  };
  for (const start of starts) {
    const ring = follow([start]);
    if (ring) return ring;
  }
  return null;
}
