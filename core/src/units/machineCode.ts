/** What of WebAssembly is used here; the same wherever the core runs. */
declare const WebAssembly:
  | {
      readonly Module: new (bytes: Uint8Array) => object;
      readonly Instance: new (module: object) => { readonly exports: object };
    }
  | undefined;

/** The memory that compiled code works in. */
export type CodeMemory = { readonly buffer: ArrayBuffer; grow(pages: number): number };

const PAGE_BYTES = 65536;

/** Makes a memory at least so many bytes large. Views of it have no length any more once it had to grow. */
export function makeRoom(memory: CodeMemory, bytes: number): void {
  const missing = bytes - memory.buffer.byteLength;
  if (missing > 0) memory.grow(Math.ceil(missing / PAGE_BYTES));
}

/**
 * WebAssembly from its base64, compiled: each call gives what an instance of its own exports, with a memory of its own.
 * Undefined where this machine can't.
 */
export function compiled(base64: string): (() => object) | undefined {
  if (!WebAssembly) return undefined;
  try {
    const { Instance, Module } = WebAssembly;
    const module = new Module(fromBase64(base64));
    return () => new Instance(module).exports;
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
