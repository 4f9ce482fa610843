import type { Frames } from '../units/index.js';
import { fadeGain } from './fade.js';
import type { HandTable } from './hands.js';
import { NodeGains } from './nodeGains.js';
import type { ClipPlan, MixPlan, NodePlan } from './plan.js';
import { returnEffect, type ReturnEffect } from './returnSound.js';
import { addMono, addPlain, addStereo, peakRamped, type SideGains } from './stretch.js';

/** Where samples come from: pages in shared memory live, files in a bounce. */
export type SampleSource = {
  /** How many channels a file has: 1 or 2. */
  channels(file: number): number;
  /**
   * Writes `count` samples of one channel of a file from a frame on into `out` at `at`, silence past the file's end.
   * False where they are not there in time: then it wrote silence, and the block is an underrun.
   */
  read(file: number, channel: number, from: Frames, count: number, out: Float32Array, at: number): boolean;
};

/** Highest sample of each channel since last taken, two (left, right) per node. */
export type Meters = Float32Array;

/** The most frames that one call can render. */
export const MAX_BLOCK: Frames = 4096;

/**
 * Renders a mix block by block: clips, mute, level, pan, sends, buses, main (rules, 3). The same code runs in the audio thread,
 * in workers and on the server. After its making it allocates nothing.
 */
export class MixRenderer {
  readonly #gains: readonly NodeGains[];
  readonly #effects: (ReturnEffect | null)[];
  /** What goes out to each bus and to the main; and, last, what the main gives. In double, as sums are. */
  readonly #left: Float64Array[];
  readonly #right: Float64Array[];
  /** The two sums that each feed of each node adds to: its output's, then its sends'. */
  readonly #feeds: readonly (readonly { readonly left: Float64Array; readonly right: Float64Array }[])[];
  readonly #sides: SideGains = { gainLeft: 0, slopeLeft: 0, gainRight: 0, slopeRight: 0 };
  readonly #scratchLeft: Float32Array;
  readonly #scratchRight: Float32Array;
  readonly #raw: Float32Array;
  #frame: Frames = 0;
  #missed = 0;
  #heeded = -1;

  constructor(
    readonly plan: MixPlan,
    readonly source: SampleSource,
    readonly hands: HandTable | null = null,
    readonly meters: Meters | null = null,
    maxBlock: Frames = MAX_BLOCK,
  ) {
    this.#gains = plan.nodes.map((node) => new NodeGains(node, plan));
    this.#effects = plan.nodes.map(({ sound }) => sound && returnEffect(sound, plan.sampleRate));
    const buffers = (): Float64Array[] => [
      ...plan.nodes.map((node) => new Float64Array(node.clips.length && node.output >= 0 ? 0 : maxBlock)),
      new Float64Array(maxBlock),
    ];
    this.#left = buffers();
    this.#right = buffers();
    const sumsOf = (i: number): { left: Float64Array; right: Float64Array } => ({
      left: this.#left[i]!,
      right: this.#right[i]!,
    });
    this.#feeds = plan.nodes.map(({ output, sends }) => [
      sumsOf(output < 0 ? plan.nodes.length : output),
      ...sends.map((send) => sumsOf(send.to)),
    ]);
    this.#scratchLeft = new Float32Array(maxBlock);
    this.#scratchRight = new Float32Array(maxBlock);
    this.#raw = new Float32Array(maxBlock);
    this.locate(0);
  }

  /** The next frame to be rendered. */
  get frame(): Frames {
    return this.#frame;
  }

  /** Reads from the source that came too late, since the start. */
  get missed(): number {
    return this.#missed;
  }

  /** Goes to a frame, as if the song had come there by itself; the returns are emptied. */
  locate(frame: Frames): void {
    this.wrap(frame);
    for (const effect of this.#effects) effect?.clear(frame);
  }

  /** Goes to a frame while the song rolls on: what the returns still have rings over it. */
  wrap(frame: Frames): void {
    this.#frame = frame;
    for (const gain of this.#gains) gain.locate(frame, this.hands);
  }

  /** Takes over from a renderer of the same song before a change: gains go on from where they were, returns ring on. */
  takeOver(before: MixRenderer): void {
    this.#frame = before.#frame;
    this.#missed = before.#missed;
    this.#gains.forEach((gain, i) => {
      const at = before.#gains.findIndex((g) => g.plan.key === gain.plan.key);
      if (at < 0) return gain.locate(this.#frame, this.hands);
      gain.follow(before.#gains[at]!, this.#frame, this.hands);
      if (before.plan.nodes[at]!.sound === gain.plan.sound) this.#effects[i] = before.#effects[at]!;
    });
  }

  /** Writes the left gain of every node at the next frame, as it is applied, into `out`. */
  readGains(out: Float32Array): void {
    for (let i = 0; i < this.#gains.length; i++) out[i] = this.#gains[i]!.at(0, this.#frame);
  }

  /** Renders the next `count` frames of the mix into left and right, from their beginning, and goes on. */
  render(left: Float32Array, right: Float32Array, count: Frames): void {
    const { nodes } = this.plan;
    if (this.hands && this.hands.version !== this.#heeded) {
      this.#heeded = this.hands.version;
      for (let i = 0; i < nodes.length; i++) this.#gains[i]!.heed(this.#frame, this.hands);
    }
    for (let i = 0; i <= nodes.length; i++)
      if (this.#left[i]!.length) {
        this.#left[i]!.fill(0, 0, count);
        this.#right[i]!.fill(0, 0, count);
      }
    for (let i = 0; i < nodes.length; i++) {
      this.#mixNode(i, this.#gather(nodes[i]!, i, count), count);
    }
    left.set(this.#left[nodes.length]!.subarray(0, count));
    right.set(this.#right[nodes.length]!.subarray(0, count));
    this.#frame += count;
  }

  /** Brings a node's input into the scratch buffers: its clips, or what was sent to it. False where it is silent. */
  #gather(node: NodePlan, i: number, count: Frames): boolean {
    if (!node.clips.length) {
      if (!this.#left[i]!.length) return false;
      this.#scratchLeft.set(this.#left[i]!.subarray(0, count));
      this.#scratchRight.set(this.#right[i]!.subarray(0, count));
      this.#effects[i]?.process(this.#scratchLeft, this.#scratchRight, count);
      return true;
    }
    let sounds = false;
    for (let c = 0; c < node.clips.length; c++) {
      const clip = node.clips[c]!;
      const from = Math.max(this.#frame, clip.from);
      const to = Math.min(this.#frame + count, clip.to);
      if (from >= to) continue;
      const isPlain = clip.gain === 1 && from >= clip.from + clip.fadeIn && to <= clip.to - clip.fadeOut;
      const isAlone = !sounds && isPlain && to - from === count;
      if (!sounds && !isAlone) {
        this.#scratchLeft.fill(0, 0, count);
        this.#scratchRight.fill(0, 0, count);
      }
      sounds = true;
      const sides = node.isStereo ? 2 : 1;
      for (let side = 0; side < sides; side++) {
        const out = side === 0 ? this.#scratchLeft : this.#scratchRight;
        if (isAlone) this.#readClip(clip, side, from, count, out);
        else this.#addClip(clip, side, from, to, isPlain, out);
      }
    }
    return sounds;
  }

  #readClip(clip: ClipPlan, side: number, from: Frames, n: Frames, out: Float32Array): void {
    const channel = side < this.source.channels(clip.file) ? side : 0;
    if (!this.source.read(clip.file, channel, clip.fileFrom + (from - clip.from), n, out, 0)) this.#missed++;
  }

  #addClip(clip: ClipPlan, side: number, from: Frames, to: Frames, isPlain: boolean, out: Float32Array): void {
    const n = to - from;
    const at = from - this.#frame;
    const raw = this.#raw;
    this.#readClip(clip, side, from, n, raw);
    if (isPlain) return addPlain(raw, out, at, n);
    for (let k = 0; k < n; k++) {
      const frame = from + k;
      let gain = clip.gain;
      if (frame < clip.from + clip.fadeIn) gain *= fadeGain(clip.fadeInShape, (frame - clip.from) / clip.fadeIn);
      if (frame >= clip.to - clip.fadeOut) gain *= fadeGain(clip.fadeOutShape, (clip.to - frame) / clip.fadeOut);
      out[at + k]! += raw[k]! * gain;
    }
  }

  /** Adds a node to its output and its sends with its gains, stretch by stretch; a silent one only moves its gains on. */
  #mixNode(i: number, sounds: boolean, count: Frames): void {
    const gains = this.#gains[i]!;
    const start = this.#frame;
    const end = start + count;
    for (let frame = start; frame < end;) {
      if (frame >= gains.to) gains.next(this.hands);
      const to = Math.min(end, gains.to);
      if (sounds) {
        const isSlewing = gains.isSlewing(frame);
        for (let feed = 0; feed <= gains.plan.sends.length; feed++)
          if (isSlewing) this.#feedSlewing(i, feed, frame, to);
          else this.#feed(i, feed, frame, to);
      }
      frame = to;
    }
  }

  #feed(i: number, feed: number, from: Frames, to: Frames): void {
    const { starts, slopes, from: knot, plan } = this.#gains[i]!;
    const sides = this.#sides;
    sides.gainLeft = starts[2 * feed]!;
    sides.gainRight = starts[2 * feed + 1]!;
    sides.slopeLeft = slopes[2 * feed]!;
    sides.slopeRight = slopes[2 * feed + 1]!;
    if (sides.gainLeft === 0 && sides.gainRight === 0 && sides.slopeLeft === 0 && sides.slopeRight === 0) return;
    const { left, right } = this.#feeds[i]![feed]!;
    const inLeft = this.#scratchLeft;
    const inRight = plan.isStereo ? this.#scratchRight : inLeft;
    const offset = this.#frame - knot;
    const [a, b] = [from - this.#frame, to - this.#frame];
    if (plan.isStereo) addStereo(inLeft, inRight, left, right, sides, offset, a, b);
    else addMono(inLeft, left, right, sides, offset, a, b);
    if (feed > 0 || !this.meters) return;
    this.#meter(2 * i, peakRamped(inLeft, sides.gainLeft, sides.slopeLeft, offset, a, b));
    this.#meter(2 * i + 1, peakRamped(inRight, sides.gainRight, sides.slopeRight, offset, a, b));
  }

  /** The same while a jump is being spread: the gain has its remains on top. */
  #feedSlewing(i: number, feed: number, start: Frames, end: Frames): void {
    const gains = this.#gains[i]!;
    const { left: toLeft, right: toRight } = this.#feeds[i]![feed]!;
    const inRight = gains.plan.isStereo ? this.#scratchRight : this.#scratchLeft;
    const metered = feed === 0 && this.meters !== null;
    for (let n = start; n < end; n++) {
      const k = n - this.#frame;
      const l = this.#scratchLeft[k]! * gains.at(2 * feed, n);
      const r = inRight[k]! * gains.at(2 * feed + 1, n);
      toLeft[k]! += l;
      toRight[k]! += r;
      if (!metered) continue;
      this.#meter(2 * i, Math.abs(l));
      this.#meter(2 * i + 1, Math.abs(r));
    }
  }

  #meter(at: number, peak: number): void {
    if (peak > this.meters![at]!) this.meters![at] = peak;
  }
}
