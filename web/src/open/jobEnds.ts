import type { Job } from '@sure-hand/server';

/** Which ends of long work are news to whoever looks on: not those from before he came, and each once. */
export class JobEnds {
  /** What had ended before he came, once that is known. */
  #old: ReadonlySet<string> | null = null;
  readonly #met = new Set<string>();
  readonly #told = new Set<string>();

  /** A list of the jobs there are has come; the first says what had ended before. */
  listed(list: readonly Job[]): void {
    this.#old ??= new Set(list.filter(({ state }) => state !== 'working').map(({ id }) => id));
  }

  /** A job was begun from here, or told of since: its end is news, also where the first list comes after it and has it as ended. */
  met({ id }: Job): void {
    this.#met.add(id);
  }

  isNews({ id, state }: Job): boolean {
    if (state === 'working' || this.#told.has(id)) return false;
    return this.#met.has(id) || (this.#old !== null && !this.#old.has(id));
  }

  told({ id }: Job): void {
    this.#told.add(id);
  }
}
