import type { Seconds } from '../units/index.js';

/** Gathers times, to have them in order: quickly where they come as a few rising runs, as those of curves do. */
export class Times {
  #all = new Float64Array(64);
  #length = 0;
  /** Where each run but the first begins. */
  readonly #begins: number[] = [];

  get length(): number {
    return this.#length;
  }

  add(t: Seconds): void {
    if (this.#length === this.#all.length) this.#grow(1);
    if (this.#length && t < this.#all[this.#length - 1]!) this.#begins.push(this.#length);
    this.#all[this.#length++] = t;
  }

  /** Adds times that rise. */
  addRun(times: Float64Array): void {
    if (!times.length) return;
    if (this.#length + times.length > this.#all.length) this.#grow(times.length);
    if (this.#length && times[0]! < this.#all[this.#length - 1]!) this.#begins.push(this.#length);
    this.#all.set(times, this.#length);
    this.#length += times.length;
  }

  /** All of them in order, each once. */
  rising(): Float64Array {
    const ends = [...this.#begins, this.#length];
    let runs: Float64Array[] = ends.map((end, i) => this.#all.subarray(i ? ends[i - 1] : 0, end));
    if (runs.length === 1) return merged(runs[0]!, NONE);
    while (runs.length > 1) {
      const next: Float64Array[] = [];
      for (let i = 0; i < runs.length; i += 2)
        next.push(i + 1 < runs.length ? merged(runs[i]!, runs[i + 1]!) : runs[i]!);
      runs = next;
    }
    return runs[0]!;
  }

  #grow(more: number): void {
    const grown = new Float64Array(Math.max(2 * this.#all.length, this.#length + more));
    grown.set(this.#all);
    this.#all = grown;
  }
}

const NONE = new Float64Array(0);

/** Two rising runs as one, each time once. */
function merged(one: Float64Array, other: Float64Array): Float64Array {
  const all = new Float64Array(one.length + other.length);
  let [i, k, n] = [0, 0, 0];
  while (i < one.length || k < other.length) {
    const t = k === other.length || one[i]! <= other[k]! ? one[i++]! : other[k++]!;
    if (n === 0 || t !== all[n - 1]) all[n++] = t;
  }
  return all.subarray(0, n);
}
