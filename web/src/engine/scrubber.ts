import type { MixRenderer } from '@sure-hand/core/mix';

/** The song goes no faster past the line than so many times its speed, and follows the hand within about so long. */
const FASTEST = 4;
const FOLLOW_SEC = 0.04;
/** Slower than this share of its speed it fades: what stands still is silent. */
const FAINT = 0.06;

/** Frames of the song that were rendered in one go: a block of them from `index` blocks on. */
type Chunk = { index: number; readonly left: Float32Array; readonly right: Float32Array; usedAt: number };

/**
 * The song heard as a hand draws it under the line, either way, at the hand's speed: its frames are rendered in blocks wherever it is,
 * and read at that speed. The returns are silent meanwhile: what rings on has no place in a song that goes back. Allocates nothing
 * once it is made.
 */
export class Scrubber {
  #at = 0;
  #speed = 0;
  #gain = 0;
  #reads = 0;
  readonly #chunks: readonly Chunk[];

  constructor(
    readonly sampleRate: number,
    readonly block: number,
  ) {
    const chunk = (): Chunk => ({
      index: -1,
      left: new Float32Array(block),
      right: new Float32Array(block),
      usedAt: 0,
    });
    this.#chunks = [chunk(), chunk()];
  }

  /** The song frame that is heard. */
  get frame(): number {
    return this.#at;
  }

  /** Begins at a frame, standing. */
  begin(frame: number): void {
    this.#at = frame;
    this.#speed = this.#gain = 0;
    this.forget();
  }

  /** What was rendered is not the song any more. */
  forget(): void {
    for (const chunk of this.#chunks) chunk.index = -1;
  }

  /** Fills a block with what the hand draws past the line on its way to `target`. */
  render(renderer: MixRenderer, target: number, left: Float32Array, right: Float32Array): void {
    const n = left.length;
    const { length } = renderer.plan;
    const goal = Math.min(length, Math.max(0, target));
    const wanted = Math.min(FASTEST, Math.max(-FASTEST, (goal - this.#at) / (FOLLOW_SEC * this.sampleRate)));
    const slope = (wanted - this.#speed) / n;
    const faint = Math.min(1, Math.abs(wanted) / FAINT);
    const swell = (faint - this.#gain) / n;
    for (let i = 0; i < n; i++) {
      this.#speed += slope;
      this.#gain += swell;
      this.#at = Math.min(length, Math.max(0, this.#at + this.#speed));
      const frame = Math.floor(this.#at);
      const share = this.#at - frame;
      const here = this.#chunkOf(renderer, frame);
      const a = frame - here.index * this.block;
      const l0 = here.left[a]!;
      const r0 = here.right[a]!;
      const next = a + 1 < this.block ? here : this.#chunkOf(renderer, frame + 1);
      const b = a + 1 < this.block ? a + 1 : 0;
      left[i] = (l0 + (next.left[b]! - l0) * share) * this.#gain;
      right[i] = (r0 + (next.right[b]! - r0) * share) * this.#gain;
    }
    // Whatever is left of adding up is none.
    this.#speed = wanted;
    this.#gain = faint;
  }

  #chunkOf(renderer: MixRenderer, frame: number): Chunk {
    const index = Math.floor(frame / this.block);
    const one = this.#chunks[0]!;
    const other = this.#chunks[1]!;
    const chunk = one.index === index ? one : other.index === index ? other : one.usedAt < other.usedAt ? one : other;
    if (chunk.index !== index) {
      chunk.index = index;
      renderer.wrap(index * this.block);
      renderer.render(chunk.left, chunk.right, this.block, true);
    }
    chunk.usedAt = ++this.#reads;
    return chunk;
  }
}
