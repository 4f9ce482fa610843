/** What of WebAssembly is used here; the same wherever the core runs. */
declare const WebAssembly:
  | {
      readonly Module: new (bytes: Uint8Array) => object;
      readonly Instance: new (
        module: object,
        imports: { readonly core: { readonly memory: CodeMemory } },
      ) => {
        readonly exports: object;
      };
      readonly Memory: new (size: { readonly initial: number }) => CodeMemory;
    }
  | undefined;

/** The memory that compiled code works in. */
export type CodeMemory = { readonly buffer: ArrayBuffer };

const PAGE_BYTES = 65536;

/** A memory of at least so many bytes. Undefined where this machine has none. */
export const codeMemory = (bytes: number): CodeMemory | undefined =>
  WebAssembly && new WebAssembly.Memory({ initial: Math.ceil(bytes / PAGE_BYTES) });

/**
 * Where in the {@link threadMemory} each has its place, in bytes: what a thousand kernels of sections keep, and all else for mixes,
 * enough for two hundred buses in the largest blocks. What is not touched takes no memory of the machine.
 */
export const IN_THREAD = { sections: 0, mix: 2 ** 21, end: 2 ** 24 } as const;
let thread: CodeMemory | undefined;

/**
 * The one memory that all mixes of this thread and their effects work in. It never grows: its buffer would be another one, and from then
 * on all lists of numbers in the thread would be slower to get at. Undefined where this machine has none.
 */
export const threadMemory = (): CodeMemory | undefined => (thread ??= codeMemory(IN_THREAD.end));

/** The place of two sides of sound that are not in it. */
export const ELSEWHERE: readonly [left: number, right: number] = [-1, -1];

/**
 * WebAssembly from its base64, compiled: each call gives what an instance of its own exports, on a memory. Undefined where this
 * machine can't.
 */
export function compiled(base64: string): ((memory: CodeMemory) => object) | undefined {
  if (!WebAssembly) return undefined;
  try {
    const { Instance, Module } = WebAssembly;
    const module = new Module(fromBase64(base64));
    return (memory) => new Instance(module, { core: { memory } }).exports;
  } catch {
    return undefined;
  }
}

const DIGITS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Base64 to bytes: the audio thread has no function of its own for it. */
function fromBase64(text: string): Uint8Array {
  const bare = text.replace(/=+$/, '');
  const bytes = new Uint8Array(Math.floor((bare.length * 3) / 4));
  let bits = 0;
  let held = 0;
  let at = 0;
  for (const digit of bare) {
    held = ((held << 6) | DIGITS.indexOf(digit)) & 0xffffff;
    bits += 6;
    if (bits < 8) continue;
    bits -= 8;
    bytes[at++] = (held >> bits) & 0xff;
  }
  return bytes;
}
