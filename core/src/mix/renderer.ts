import type { ChannelKey } from '../song/index.js';
import type { Frames } from '../units/index.js';
import { copyFrames } from './copyFrames.js';
import { fadeGain } from './fade.js';
import type { HandTable } from './hands.js';
import { mixLoops, type MixLoops, type SideGains } from './mixLoops.js';
import { NodeGains } from './nodeGains.js';
import { InsertRack } from './insertRack.js';
import { feedsOf, type ClipPlan, type MixPlan, type NodePlan } from './plan.js';
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
  #plan: MixPlan;
  #source: SampleSource;
  #gains: NodeGains[] = [];
  #effects: (ReturnEffect | null)[] = [];
  #racks: (InsertRack | null)[] = [];
  #loops: MixLoops;
  /** Where what goes out to a node is summed, among the targets of the loops: −1 for one that nothing goes to. */
  #sums: Int32Array;
  /** The same for what the main gives. */
  #mix = 0;
  /** The same for what listens to a node as a key: −1 for one that nothing listens to. */
  #keys: Int32Array;
  /** Nodes that inserts listen to, by the node, the place of the insert and the node that it listens to. */
  #listeners: Int32Array;
  /** The targets of each node's feeds: its output, then its sends, then its key. */
  #feeds: readonly Int32Array[];
  readonly #sides: SideGains = { gainLeft: 0, slopeLeft: 0, gainRight: 0, slopeRight: 0 };
  readonly #raw: Float32Array;
  /** The gains of the two sides while a jump is being spread. */
  readonly #slewing = new Float64Array(2);
  #frame: Frames = 0;
  #missed = 0;
  #heeded = -1;
  #watchedKey: ChannelKey | null = null;
  #watchedNode = -1;
  /** The sound of the channel that is watched, after its inserts, as of the last block. */
  readonly watched: Float32Array;

  constructor(
    plan: MixPlan,
    source: SampleSource,
    readonly hands: HandTable | null = null,
    readonly meters: Meters | null = null,
    readonly maxBlock: Frames = MAX_BLOCK,
  ) {
    this.#plan = plan;
    this.#source = source;
    let feed = 0;
    for (const node of plan.nodes) {
      this.#gains.push(new NodeGains(node, plan, feed));
      this.#effects.push(effectOf(node, plan));
      this.#racks.push(node.inserts.length ? new InsertRack(node, plan) : null);
      feed += feedsOf(node);
    }
    this.#sums = this.#sumsOf(plan.nodes);
    this.#keys = this.#keysOf(plan.nodes);
    this.#listeners = listenersOf(plan.nodes);
    this.#feeds = this.#feedsOf(plan.nodes);
    this.#loops = mixLoops(this.#mix + 1, maxBlock);
    this.#raw = new Float32Array(maxBlock);
    this.watched = new Float32Array(maxBlock);
    this.locate(0);
  }

  /** Gives a place to all that something goes out to, the last of them to what the main gives. */
  #sumsOf(nodes: readonly NodePlan[]): Int32Array {
    let targets = 0;
    const sums = Int32Array.from(nodes, (node) => (node.clips.length && node.output !== null ? -1 : targets++));
    this.#mix = targets;
    return sums;
  }

  /** Gives a place to all that something listens to; the last goes to what the main gives. */
  #keysOf(nodes: readonly NodePlan[]): Int32Array {
    let targets = this.#mix;
    const keys = Int32Array.from(nodes, ({ isKey }) => (isKey ? targets++ : -1));
    this.#mix = targets;
    return keys;
  }

  #feedsOf(nodes: readonly NodePlan[]): Int32Array[] {
    const sumOf = new Map(nodes.map(({ key }, i) => [key, this.#sums[i]!]));
    return nodes.map(({ output, sends, isKey }, i) =>
      Int32Array.of(
        output === null ? this.#mix : sumOf.get(output)!,
        ...sends.map(({ bus }) => sumOf.get(bus)!),
        ...(isKey ? [this.#keys[i]!] : []),
      ),
    );
  }

  get plan(): MixPlan {
    return this.#plan;
  }

  /** Watches a channel: its sound after its inserts is left in `watched` with every block. Null watches none. */
  watch(key: ChannelKey | null): void {
    this.#watchedKey = key;
    this.#findWatched();
  }

  #findWatched(): void {
    this.#watchedNode = this.#plan.nodes.findIndex(({ key }) => key === this.#watchedKey);
    this.watched.fill(0);
  }

  /** Leaves what is to be seen of an insert of the channel that is watched at two places: see {@link InsertRack.showInto}. */
  showInto(slot: string, out: Float64Array, at: number): void {
    this.#racks[this.#watchedNode]?.showInto(slot, out, at);
  }

  /** Both sides of the channel that is watched as one. */
  #keepWatched(node: NodePlan, sounds: boolean, count: Frames): void {
    const { inputLeft, inputRight } = this.#loops;
    if (!sounds) this.watched.fill(0, 0, count);
    else if (node.isWide) for (let k = 0; k < count; k++) this.watched[k] = 0.5 * (inputLeft[k]! + inputRight[k]!);
    else for (let k = 0; k < count; k++) this.watched[k] = inputLeft[k]!;
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
    this.#frame = frame;
    for (const gain of this.#gains) gain.locate(frame, this.hands);
    for (const effect of this.#effects) effect?.clear(frame);
    for (const rack of this.#racks) rack?.locate(frame, this.hands);
  }

  /** Goes to a frame while the song rolls on: what the returns still have rings over it. */
  wrap(frame: Frames): void {
    this.#frame = frame;
    for (const gain of this.#gains) gain.locate(frame, this.hands);
    for (const rack of this.#racks) rack?.wrap(frame, this.hands);
  }

  /**
   * Goes on with a changed plan, some of whose controls (by slot) are other, from a source that may be another. Only nodes that
   * are other objects than before, or read one of those controls, are made anew; gains go on from where they were, what
   * another's solo takes away or gives comes over 2 ms, returns ring on.
   */
  change(plan: MixPlan, slots: ReadonlySet<number>, source: SampleSource = this.#source): void {
    const before = this.#plan;
    const placeOf = new Map(before.nodes.map(({ key }, place) => [key, place]));
    const [gains, effects, racks] = [this.#gains, this.#effects, this.#racks];
    this.#plan = plan;
    this.#source = source;
    this.#gains = [];
    this.#effects = [];
    this.#racks = [];
    let feed = 0;
    for (const node of plan.nodes) {
      const place = placeOf.get(node.key) ?? -1;
      const was = gains[place];
      const isAsBefore = was?.plan === node && plan.panLaw === before.panLaw && !was.reads(slots);
      if (isAsBefore) was.hear(plan.heard, feed, this.#frame, this.hands);
      this.#gains.push(isAsBefore ? was : this.#gainsAfter(was, node, feed));
      this.#effects.push(before.nodes[place]?.sound === node.sound ? effects[place]! : effectOf(node, plan));
      this.#racks.push(this.#rackAfter(racks[place] ?? null, node, slots));
      feed += feedsOf(node);
    }
    if (plan.nodes === before.nodes) return;
    this.#sums = this.#sumsOf(plan.nodes);
    this.#keys = this.#keysOf(plan.nodes);
    this.#listeners = listenersOf(plan.nodes);
    this.#feeds = this.#feedsOf(plan.nodes);
    this.#findWatched();
    if (this.#mix >= this.#loops.lefts.length) this.#loops = mixLoops(this.#mix + 1, this.maxBlock);
  }

  /** Gains of a node that is new or other; they go on from where it was, if it was there. */
  #gainsAfter(was: NodeGains | undefined, node: NodePlan, feed: number): NodeGains {
    const gains = new NodeGains(node, this.#plan, feed);
    if (was) gains.follow(was, this.#frame, this.hands);
    else gains.locate(this.#frame, this.hands);
    return gains;
  }

  /** The inserts of a node; where they, or what they read, are other than before they go on from those that were there. */
  #rackAfter(was: InsertRack | null, node: NodePlan, slots: ReadonlySet<number>): InsertRack | null {
    // What went out is still going, over 2 ms.
    if (!node.inserts.length && !was?.hasSound) return null;
    if (was?.plan === node && !was.reads(slots)) return was;
    const rack = new InsertRack(node, this.#plan, was);
    rack.follow(was, this.#frame, this.hands);
    return rack;
  }

  /** Writes the left gain of every node at the next frame, as it is applied, into its slot of `out`. */
  readGains(out: Float32Array): void {
    for (let i = 0; i < this.#gains.length; i++)
      this.#gains[i]!.gainInto(out, this.#plan.nodes[i]!.slot, 0, this.#frame);
  }

  /**
   * Renders the next `count` frames of the mix into left and right, from their beginning, and goes on. `isDry`: the returns are silent,
   * and keep what they have.
   */
  render(left: Float32Array, right: Float32Array, count: Frames, isDry = false): void {
    const { nodes } = this.#plan;
    if (this.hands && this.hands.version !== this.#heeded) {
      this.#heeded = this.hands.version;
      for (let i = 0; i < nodes.length; i++) {
        this.#gains[i]!.heed(this.#frame, this.hands);
        this.#racks[i]?.heed(this.hands);
      }
    }
    const loops = this.#loops;
    for (let i = 0; i <= this.#mix; i++) {
      loops.lefts[i]!.fill(0, 0, count);
      loops.rights[i]!.fill(0, 0, count);
    }
    this.#listen();
    for (let i = 0; i < nodes.length; i++) {
      const sounds = this.#inserted(i, this.#gather(nodes[i]!, i, count, isDry), count, isDry);
      if (i === this.#watchedNode) this.#keepWatched(nodes[i]!, sounds, count);
      this.#mixNode(i, sounds, count);
    }
    copyFrames(left, loops.lefts[this.#mix]!, count);
    copyFrames(right, loops.rights[this.#mix]!, count);
    this.#frame += count;
  }

  /** Tells inserts that listen where what they listen to is summed: buffers may have moved. */
  #listen(): void {
    const listeners = this.#listeners;
    const { lefts, rights } = this.#loops;
    for (let n = 0; n < listeners.length; n += 3) {
      const key = this.#keys[listeners[n + 2]!]!;
      this.#racks[listeners[n]!]!.listen(listeners[n + 1]!, lefts[key]!, rights[key]!);
    }
  }

  /** Whether a node, dry, has nothing to give: it is a bus with the sound of a return. */
  #isReturn(i: number): boolean {
    return this.#plan.nodes[i]!.output !== null && (this.#effects[i] !== null || this.#racks[i]?.rings === true);
  }

  /** Sends a node's input through its inserts; whether it sounds after that. */
  #inserted(i: number, sounds: boolean, count: Frames, isDry: boolean): boolean {
    const rack = this.#racks[i];
    if (!rack || (isDry && !sounds)) return sounds;
    return rack.process(this.#loops, count, this.#frame, this.hands, sounds, isDry);
  }

  /** Brings a node’s input into the loops’ buffers: its clips, or what was sent to it. False where it is silent. */
  #gather(node: NodePlan, i: number, count: Frames, isDry: boolean): boolean {
    const { inputLeft, inputRight, lefts, rights } = this.#loops;
    if (!node.clips.length) {
      const sum = this.#sums[i]!;
      if (sum < 0 || (isDry && this.#isReturn(i))) return false;
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
    const channel = side < this.#source.channels(clip.file) ? side : 0;
    if (!this.#source.read(clip.file, channel, clip.fileFrom + (from - clip.from), n, out, 0)) this.#missed++;
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
        for (let feed = 0; feed < this.#feeds[i]!.length; feed++)
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
    if (plan.isWide) loops.addStereo(target, sides, offset, a, b);
    else loops.addMono(target, sides, offset, a, b);
    if (feed > 0 || !this.meters) return;
    const { slot } = plan;
    this.#meter(2 * slot, loops.peak(0, sides.gainLeft, sides.slopeLeft, offset, a, b));
    this.#meter(2 * slot + 1, loops.peak(plan.isWide ? 1 : 0, sides.gainRight, sides.slopeRight, offset, a, b));
  }

  /** The same while a jump is being spread: the gain has its remains on top. */
  #feedSlewing(i: number, feed: number, start: Frames, end: Frames): void {
    const gains = this.#gains[i]!;
    const { inputLeft, inputRight, lefts, rights } = this.#loops;
    const target = this.#feeds[i]![feed]!;
    const toLeft = lefts[target]!;
    const toRight = rights[target]!;
    const inRight = gains.plan.isWide ? inputRight : inputLeft;
    const metered = feed === 0 && this.meters !== null;
    const slewing = this.#slewing;
    for (let n = start; n < end; n++) {
      const k = n - this.#frame;
      gains.gainInto(slewing, 0, 2 * feed, n);
      gains.gainInto(slewing, 1, 2 * feed + 1, n);
      const l = inputLeft[k]! * slewing[0]!;
      const r = inRight[k]! * slewing[1]!;
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

const effectOf = ({ sound }: NodePlan, { sampleRate }: MixPlan): ReturnEffect | null =>
  sound && returnEffect(sound, sampleRate);

/** Of every insert that listens to a node: the place of its own node, its own there, the place of the node that it listens to. */
function listenersOf(nodes: readonly NodePlan[]): Int32Array {
  const placeOf = new Map(nodes.map(({ key }, i) => [key, i]));
  return Int32Array.from(
    nodes.flatMap(({ inserts }, i) =>
      inserts.flatMap(({ key }, place) => {
        const heard = key === null ? undefined : placeOf.get(key);
        return heard === undefined ? [] : [i, place, heard];
      }),
    ),
  );
}
