/** A typed array can't be frozen: what it held as it was given out. */
type Witness = { readonly list: ArrayLike<number> & ArrayBufferView; readonly was: Uint8Array };

const bytesOf = ({ buffer, byteOffset, byteLength }: ArrayBufferView): Uint8Array =>
  new Uint8Array(buffer.slice(byteOffset, byteOffset + byteLength));

/**
 * A keeper of what the core gives out, as strict as any can be: all of it is frozen through and through as it comes, so that whoever
 * changes it afterwards throws, giver or keeper; lists of numbers, which can't be frozen, are remembered and held against what they
 * were.
 */
export class FrozenKeeper {
  readonly #seen = new Set<object>();
  readonly #witnesses: Witness[] = [];

  /** Freezes something and all that it holds; gives it back. */
  keep<T>(thing: T): T {
    const waiting: unknown[] = [thing];
    while (waiting.length) {
      const one = waiting.pop();
      if (typeof one !== 'object' || one === null || this.#seen.has(one)) continue;
      this.#seen.add(one);
      if (ArrayBuffer.isView(one)) {
        this.#witnesses.push({ list: one as Float64Array, was: bytesOf(one) });
        continue;
      }
      waiting.push(...Object.values(one));
      if (one instanceof Map) waiting.push(...one.keys(), ...one.values());
      if (one instanceof Set) waiting.push(...one);
      Object.freeze(one);
    }
    return thing;
  }

  /** How many of the lists of numbers that were given out are not as they were then. */
  get changed(): number {
    return this.#witnesses.filter(({ list, was }) => bytesOf(list).some((byte, i) => byte !== was[i])).length;
  }
}
