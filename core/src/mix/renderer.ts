import type { Frames } from '../units/index.js';
import { copyFrames } from './copyFrames.js';
import { fadeGain } from './fade.js';
import type { HandTable } from './hands.js';
import { mixLoops, type MixLoops, type SideGains } from './mixLoops.js';
import { NodeGains } from './nodeGains.js';
import type { ClipPlan, MixPlan, NodePlan } from './plan.js';
import { returnEffect, type ReturnEffect } from './returnSound.js';

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

/** Highest sample of each channel since last taken, two (left, right) by the slot of each node. */
export type Meters = Float32Array;

/** The most frames that one call can render. */
export const MAX_BLOCK: Frames = 4096;

/**
 * Renders a mix block by block: clips, mute, level, pan, sends, buses, main (rules, 3). The same code runs in the audio thread,
 * in workers and on the server. After its making it allocates nothing.
 */
export class MixRenderer {
  readonly #gains: NodeGains[];
  #plan: MixPlan;
  readonly #effects: (ReturnEffect | null)[];
  readonly #loops: MixLoops;
  /** Where what goes out to a node is summed, among the targets of the loops: −1 for one that nothing goes to. */
  readonly #sums: Int32Array;
  /** The same for what the main gives. */
  readonly #mix: number;
  /** The targets of each node's feeds: its output, then its sends. */
  readonly #feeds: readonly Int32Array[];
  readonly #sides: SideGains = { gainLeft: 0, slopeLeft: 0, gainRight: 0, slopeRight: 0 };
  readonly #raw: Float32Array;
  #frame: Frames = 0;
  #missed = 0;
  #heeded = -1;

  constructor(
    plan: MixPlan,
    readonly source: SampleSource,
    readonly hands: HandTable | null = null,
    readonly meters: Meters | null = null,
    maxBlock: Frames = MAX_BLOCK,
  ) {
    this.#plan = plan;
    this.#gains = plan.nodes.map((node) => new NodeGains(node, plan));
    this.#effects = plan.nodes.map(({ sound }) => sound && returnEffect(sound, plan.sampleRate));
    const { nodes } = plan;
    let targets = 0;
    this.#sums = Int32Array.from(nodes, (node) => (node.clips.length && node.output >= 0 ? -1 : targets++));
    this.#mix = targets++;
    this.#feeds = nodes.map(({ output, sends }) =>
      Int32Array.of(output < 0 ? this.#mix : this.#sums[output]!, ...sends.map((send) => this.#sums[send.to]!)),
    );
    this.#loops = mixLoops(targets, maxBlock);
    this.#raw = new Float32Array(maxBlock);
    this.locate(0);
  }

  get plan(): MixPlan {
    return this.#plan;
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

  /** Takes over the plan with some of its controls changed, all else being as it was: only what they move is made anew. */
  changeControls(plan: MixPlan, slots: ReadonlySet<number>): void {
    this.#plan = plan;
    for (const [i, before] of this.#gains.entries()) {
      if (!before.reads(slots)) continue;
      const gains = new NodeGains(plan.nodes[i]!, plan);
      gains.follow(before, this.#frame, this.hands);
      this.#gains[i] = gains;
    }
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

  /** Writes the left gain of every node at the next frame, as it is applied, into its slot of `out`. */
  readGains(out: Float32Array): void {
    for (let i = 0; i < this.#gains.length; i++) out[this.#plan.nodes[i]!.slot] = this.#gains[i]!.at(0, this.#frame);
  }

  /** Renders the next `count` frames of the mix into left and right, from their beginning, and goes on. */
  render(left: Float32Array, right: Float32Array, count: Frames): void {
    const { nodes } = this.#plan;
    if (this.hands && this.hands.version !== this.#heeded) {
      this.#heeded = this.hands.version;
      for (let i = 0; i < nodes.length; i++) this.#gains[i]!.heed(this.#frame, this.hands);
    }
    const loops = this.#loops;
    loops.ready();
    for (let i = 0; i <= this.#mix; i++) {
      loops.lefts[i]!.fill(0, 0, count);
      loops.rights[i]!.fill(0, 0, count);
    }
    for (let i = 0; i < nodes.length; i++) {
      this.#mixNode(i, this.#gather(nodes[i]!, i, count), count);
    }
    copyFrames(left, loops.lefts[this.#mix]!, count);
    copyFrames(right, loops.rights[this.#mix]!, count);
    this.#frame += count;
  }

  /** Brings a node’s input into the loops’ buffers: its clips, or what was sent to it. False where it is silent. */
  #gather(node: NodePlan, i: number, count: Frames): boolean {
    const { inputLeft, inputRight, lefts, rights } = this.#loops;
    if (!node.clips.length) {
      const sum = this.#sums[i]!;
      if (sum < 0) return false;
      copyFrames(inputLeft, lefts[sum]!, count);
      copyFrames(inputRight, rights[sum]!, count);
      this.#effects[i]?.process(inputLeft, inputRight, count);
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
        inputLeft.fill(0, 0, count);
        inputRight.fill(0, 0, count);
      }
      sounds = true;
      const sides = node.isStereo ? 2 : 1;
      for (let side = 0; side < sides; side++) {
        const out = side === 0 ? inputLeft : inputRight;
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
    if (isPlain) {
      for (let k = 0; k < n; k++) out[at + k]! += raw[k]!;
      return;
    }
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
    const target = this.#feeds[i]![feed]!;
    const offset = this.#frame - knot;
    const a = from - this.#frame;
    const b = to - this.#frame;
    const loops = this.#loops;
    if (plan.isStereo) loops.addStereo(target, sides, offset, a, b);
    else loops.addMono(target, sides, offset, a, b);
    if (feed > 0 || !this.meters) return;
    const { slot } = plan;
    this.#meter(2 * slot, loops.peak(0, sides.gainLeft, sides.slopeLeft, offset, a, b));
    this.#meter(2 * slot + 1, loops.peak(plan.isStereo ? 1 : 0, sides.gainRight, sides.slopeRight, offset, a, b));
  }

  /** The same while a jump is being spread: the gain has its remains on top. */
  #feedSlewing(i: number, feed: number, start: Frames, end: Frames): void {
    const gains = this.#gains[i]!;
    const { inputLeft, inputRight, lefts, rights } = this.#loops;
    const target = this.#feeds[i]![feed]!;
    const toLeft = lefts[target]!;
    const toRight = rights[target]!;
    const inRight = gains.plan.isStereo ? inputRight : inputLeft;
    const metered = feed === 0 && this.meters !== null;
    for (let n = start; n < end; n++) {
      const k = n - this.#frame;
      const l = inputLeft[k]! * gains.at(2 * feed, n);
      const r = inRight[k]! * gains.at(2 * feed + 1, n);
      toLeft[k]! += l;
      toRight[k]! += r;
      if (!metered) continue;
      this.#meter(2 * gains.plan.slot, Math.abs(l));
      this.#meter(2 * gains.plan.slot + 1, Math.abs(r));
    }
  }

  #meter(at: number, peak: number): void {
    if (peak > this.meters![at]!) this.meters![at] = peak;
  }
}
