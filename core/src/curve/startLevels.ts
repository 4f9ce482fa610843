/**
 * A sample to go on from: its index, or −1 less the index where it is wide. A wide one was come to with one more segment than
 * needed, from the sample before it, so that a vertex there can have any value in the tube.
 */
export type Place = number;

export const indexOf = (place: Place): number => (place < 0 ? ~place : place);
export const isWide = (place: Place): boolean => place < 0;

/** Places to go on from, level after level: a whole ride has many thousands of them. */
export class StartLevels {
  #places: Int32Array = new Int32Array(64);
  /** Where each level ends among the places. */
  #ends: Int32Array = new Int32Array(64);
  #length = 0;
  #end = 0;

  /** How many levels there are. */
  get length(): number {
    return this.#length;
  }

  /** All places; those of a level are there {@link from} and up to but not at {@link to}. */
  get places(): Int32Array {
    return this.#places;
  }

  from(level: number): number {
    return level > 0 ? this.#ends[level - 1]! : 0;
  }

  to(level: number): number {
    return this.#ends[level]!;
  }

  /** Adds a place to the level that is being made. */
  add(place: Place): void {
    if (this.#end === this.#places.length) this.#places = twice(this.#places);
    this.#places[this.#end++] = place;
  }

  /** The level that was being made is whole. */
  close(): void {
    if (this.#length === this.#ends.length) this.#ends = twice(this.#ends);
    this.#ends[this.#length++] = this.#end;
  }

  /** Forgets all levels but the first so many. */
  truncate(length: number): void {
    this.#length = length;
    this.#end = this.from(length);
  }
}

function twice(column: Int32Array): Int32Array {
  const larger = new Int32Array(2 * column.length);
  larger.set(column);
  return larger;
}
