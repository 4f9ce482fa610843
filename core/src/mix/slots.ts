/**
 * Places in shared memory that controls and channels keep while a song is open, whatever comes and goes among the others.
 * Each name has one; a name that goes gives its place up, and it is taken again as late as can be.
 */
export class Slots {
  readonly #of = new Map<string, number>();
  readonly #free: number[] = [];
  #next = 0;

  /** The place of a name; −1 where it has none. */
  of(name: string): number {
    return this.#of.get(name) ?? -1;
  }

  /** Gives every name a place that has none yet, then takes back those of names that are not among them; gives those back. */
  assign(names: ReadonlySet<string>): number[] {
    for (const name of names) if (!this.#of.has(name)) this.#of.set(name, this.#free.shift() ?? this.#next++);
    const gone = [...this.#of].filter(([name]) => !names.has(name));
    for (const [name] of gone) this.#of.delete(name);
    const freed = gone.map(([, slot]) => slot);
    this.#free.push(...freed);
    return freed;
  }
}
