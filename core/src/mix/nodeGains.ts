import { MAX_EFFECTIVE_DB } from '../groups/index.js';
import { gainOfDb, asBalance, leftGain, leftGainInPlace, type Frames, type Gain, type PanLaw } from '../units/index.js';
import { ControlReader } from './controlReader.js';
import { FOUND, NEVER } from './found.js';
import { type HandTable } from './hands.js';
import { feedsOf, type MixPlan, type NodePlan } from './plan.js';

/** How gains move (rules, 3): exact at least every `gridFrames` from the song's start, jumps spread over `slewSec`. */
export const GAIN = { gridFrames: 64, slewSec: 0.002, slews: 4, jump: 1e-7 } as const;
const MAX_GAIN = gainOfDb(MAX_EFFECTIVE_DB);

/** Places in a node's own frames: where its stretch begins and ends, where the next point stands, how far jumps are being spread. */
const FROM = 0;
const TO = 1;
const POINT = 2;
const SLEWS_UNTIL = 3;

/** The two sides' gains of a pan, worked out again only where it has moved. */
class PanGains {
  /** Left and right. */
  readonly sides = new Float64Array(2);
  /** The pan’s travel that they are of. */
  readonly #was = Float64Array.of(NaN);
  readonly #centre: Gain;

  constructor(
    readonly law: PanLaw,
    readonly isStereo: boolean,
  ) {
    this.#centre = leftGain(law, 0);
  }

  /** Turns to where a reader has found the pan. */
  turn({ found }: ControlReader): void {
    const { sides } = this;
    if (found[FOUND.travel] === this.#was[0]) return;
    this.#was[0] = found[FOUND.travel]!;
    for (let side = 0; side < 2; side++) {
      sides[side] = (side === 0 ? 1 : -1) * (2 * found[FOUND.travel]! - 1);
      leftGainInPlace(this.law, sides, side);
      if (this.isStereo) sides[side] = asBalance(sides[side]!, this.#centre);
    }
  }
}

/**
 * The gains of a channel over time, two (left, right) for each of its feeds: its output first, then its sends, then what listens to
 * it as a key: after its level, before its pan. They go
 * straight from knot to knot, where knots are the points of all its curves and every 64 frames of the song; a jump is
 * spread over 2 ms from its frame. What they are at a frame does not depend on where blocks begin, so a bounce is the
 * live mix sample for sample.
 */
export class NodeGains {
  /** See {@link FROM} and those after it. */
  readonly #frames = new Float64Array(4);
  /** The gains over the stretch between two knots, at its beginning and by the frame: feed f has sides 2f and 2f + 1. */
  readonly starts: Float64Array;
  readonly slopes: Float64Array;
  readonly slewFrames: number;
  /** The gains at the stretch's end, and as last evaluated. */
  readonly #end: Float64Array;
  readonly #now: Float64Array;
  /** Jumps being spread: frame of each, and how much of it remains there. Free places have −Infinity. */
  readonly #slewFrom = new Float64Array(GAIN.slews).fill(-Infinity);
  readonly #slews: readonly Float64Array[];
  #handsOn = false;
  readonly #still: boolean;
  readonly #readers: readonly ControlReader[];
  readonly #mutes: readonly ControlReader[];
  readonly #level: ControlReader;
  readonly #vcaLevels: readonly ControlReader[];
  readonly #pan: ControlReader;
  readonly #panGains: PanGains;
  /** Which of its feeds are heard: see the plan's `heard`. */
  readonly #heard: Uint8Array;
  readonly #sends: readonly {
    readonly level: ControlReader;
    readonly on: ControlReader;
    readonly pan: ControlReader | null;
    readonly panGains: PanGains;
  }[];

  /** Of a node of a mix, whose feeds begin at `feed` among those of all nodes. */
  constructor(
    readonly plan: NodePlan,
    mix: MixPlan,
    feed: number,
  ) {
    this.#heard = mix.heard.slice(feed, feed + feedsOf(plan));
    this.slewFrames = Math.round(GAIN.slewSec * mix.sampleRate);
    const readers: ControlReader[] = [];
    const reader = (slot: number): ControlReader => {
      const made = new ControlReader(mix.controls, slot, mix.sampleRate);
      readers.push(made);
      return made;
    };
    const panGains = (): PanGains => new PanGains(mix.panLaw, plan.isStereo);
    this.#level = reader(plan.level);
    this.#pan = reader(plan.pan);
    this.#panGains = panGains();
    this.#mutes = [plan.mute, ...plan.vcaMutes].map(reader);
    this.#vcaLevels = plan.vcaLevels.map(reader);
    this.#sends = plan.sends.map((send) => ({
      level: reader(send.level),
      on: reader(send.on),
      pan: send.pan < 0 ? null : reader(send.pan),
      panGains: panGains(),
    }));
    this.#readers = readers;
    this.#still = readers.every((one) => one.isStill);
    const sides = 2 * feedsOf(plan);
    this.starts = new Float64Array(sides);
    this.slopes = new Float64Array(sides);
    this.#end = new Float64Array(sides);
    this.#now = new Float64Array(sides);
    this.#slews = Array.from({ length: GAIN.slews }, () => new Float64Array(sides));
  }

  /** Where the stretch begins. */
  get from(): Frames {
    return this.#frames[FROM]!;
  }

  /** Where it ends. */
  get to(): Frames {
    return this.#frames[TO]!;
  }

  /** Begins at a frame as if the song had come there by itself: jumps of the last 2 ms are still on their way. */
  locate(frame: Frames, hands: HandTable | null): void {
    this.#slewFrom.fill(-Infinity);
    this.#frames[SLEWS_UNTIL] = 0;
    this.#frames[POINT] = NEVER;
    if (hands) this.#handsOn = this.#anyHand(hands);
    const start = Math.max(0, frame - this.slewFrames);
    this.#evaluate(start, false, hands);
    this.#open(start, hands);
    while (this.to <= frame) this.next(hands);
  }

  /** Hands have done something since the last block: if it was here, a new stretch begins at this frame. */
  heed(frame: Frames, hands: HandTable): void {
    const before = this.#handsOn;
    this.#handsOn = this.#anyHand(hands);
    if (before || this.#handsOn) this.#begin(frame, hands);
  }

  /** Another channel was soloed, or is no more: feeds that are to be heard, or not any more, come and go over 2 ms. */
  hear(heard: Uint8Array, feed: number, frame: Frames, hands: HandTable | null): void {
    let isOther = false;
    for (let i = 0; i < this.#heard.length; i++) {
      if (this.#heard[i] === heard[feed + i]) continue;
      this.#heard[i] = heard[feed + i]!;
      isOther = true;
    }
    if (isOther) this.#begin(frame, hands);
  }

  /** Whether any of some slots is one of its controls. */
  reads(slots: ReadonlySet<number>): boolean {
    return this.#readers.some((reader) => reader.reads(slots));
  }

  #anyHand(hands: HandTable): boolean {
    for (let i = 0; i < this.#readers.length; i++) if (this.#readers[i]!.isInHand(hands)) return true;
    return false;
  }

  /** Goes on to the stretch that begins where this one ends. */
  next(hands: HandTable | null): void {
    const frame = this.to;
    if (frame === this.#frames[POINT] || this.#handsOn) return this.#begin(frame, hands);
    for (let i = 0; i < this.starts.length; i++) this.starts[i] = this.#end[i]!;
    this.#extend(frame, hands);
  }

  /** Begins a stretch at any frame; what is not where the one before it comes to is spread over 2 ms. */
  #begin(frame: Frames, hands: HandTable | null): void {
    const { starts, slopes } = this;
    const gone = frame - this.from;
    // What the stretch before comes to is put where its end stands; nobody needs that any more.
    if (frame !== this.to) for (let i = 0; i < starts.length; i++) this.#end[i] = starts[i]! + slopes[i]! * gone;
    this.#evaluate(frame, false, hands);
    for (let i = 0; i < starts.length; i++)
      if (Math.abs(this.#end[i]! - this.#now[i]!) > GAIN.jump) {
        this.#slew(frame);
        break;
      }
    this.#open(frame, hands);
  }

  /** Takes over what another plan's gains were doing at a frame, so that a change of the song does not click. */
  follow(other: NodeGains, frame: Frames, hands: HandTable | null): void {
    this.#frames[FROM] = other.from;
    this.#frames[TO] = other.to;
    this.#frames[POINT] = NEVER;
    this.#slewFrom.set(other.#slewFrom);
    this.#frames[SLEWS_UNTIL] = other.#frames[SLEWS_UNTIL]!;
    for (let feed = 0; feed < feedsOf(this.plan); feed++) {
      const before = this.#placeIn(other, feed);
      // A send that was not there comes in from silence.
      if (before < 0) continue;
      for (let side = 0; side < 2; side++) {
        const [here, there] = [2 * feed + side, 2 * before + side];
        this.starts[here] = other.starts[there]!;
        this.slopes[here] = other.slopes[there]!;
        this.#end[here] = other.#end[there]!;
        for (let i = 0; i < GAIN.slews; i++) this.#slews[i]![here] = other.#slews[i]![there]!;
      }
    }
    if (hands) this.#handsOn = this.#anyHand(hands);
    this.#begin(frame, hands);
  }

  /** Where another plan's gains have the same feed; −1 where they have none. */
  #placeIn({ plan }: NodeGains, feed: number): number {
    const { sends } = this.plan;
    if (feed === 0) return 0;
    if (feed > sends.length) return plan.isKey ? 1 + plan.sends.length : -1;
    const there = plan.sends.findIndex((send) => send.bus === sends[feed - 1]!.bus);
    return there < 0 ? -1 : 1 + there;
  }

  /** Whether a jump is still being spread at a frame. */
  isSlewing(frame: Frames): boolean {
    return frame < this.#frames[SLEWS_UNTIL]!;
  }

  /** Writes the gain of one side of a feed at a frame of the stretch, what is left of jumps included, to a place in `out`. */
  gainInto(out: Float64Array | Float32Array, place: number, side: number, frame: Frames): void {
    let gain: Gain = this.starts[side]! + this.slopes[side]! * (frame - this.from);
    for (let i = 0; i < GAIN.slews; i++) {
      const gone = frame - this.#slewFrom[i]!;
      if (gone < this.slewFrames) gain += this.#slews[i]![side]! * (1 - gone / this.slewFrames);
    }
    out[place] = gain;
  }

  /** Spreads what the last stretch ended with, less what the new one begins with. */
  #slew(frame: Frames): void {
    let oldest = 0;
    for (let i = 1; i < GAIN.slews; i++) if (this.#slewFrom[i]! < this.#slewFrom[oldest]!) oldest = i;
    const carried = Math.max(0, 1 - (frame - this.#slewFrom[oldest]!) / this.slewFrames);
    const slew = this.#slews[oldest]!;
    for (let i = 0; i < slew.length; i++) slew[i] = this.#end[i]! - this.#now[i]! + slew[i]! * carried;
    this.#slewFrom[oldest] = frame;
    this.#frames[SLEWS_UNTIL] = frame + this.slewFrames;
  }

  /** Opens the stretch from a frame, whose gains were just evaluated. */
  #open(frame: Frames, hands: HandTable | null): void {
    for (let i = 0; i < this.starts.length; i++) this.starts[i] = this.#now[i]!;
    this.#extend(frame, hands);
  }

  /** Draws the stretch that starts at a frame on to the next knot. */
  #extend(frame: Frames, hands: HandTable | null): void {
    const { starts, slopes } = this;
    const frames = this.#frames;
    frames[FROM] = frame;
    // The next line of the grid after the frame.
    let to = (Math.floor(frame / GAIN.gridFrames) + 1) * GAIN.gridFrames;
    if (this.#still && !this.#handsOn) {
      // Nothing moves it but a hand, and that begins a stretch of its own.
      frames[TO] = NEVER;
      for (let i = 0; i < starts.length; i++) {
        this.#end[i] = starts[i]!;
        slopes[i] = 0;
      }
      return;
    }
    if (!this.#still) {
      if (!(frames[POINT]! > frame && frames[POINT]! < NEVER)) this.#findPoint(frame);
      to = Math.min(to, frames[POINT]!);
    }
    this.#evaluate(to, to === frames[POINT], hands);
    frames[TO] = to;
    const share = 1 / (to - frame);
    for (let i = 0; i < starts.length; i++) {
      this.#end[i] = this.#now[i]!;
      slopes[i] = (this.#now[i]! - starts[i]!) * share;
    }
  }

  /** Finds where the next point of any of its curves stands. */
  #findPoint(frame: Frames): void {
    const frames = this.#frames;
    frames[POINT] = NEVER;
    for (let i = 0; i < this.#readers.length; i++) {
      const reader = this.#readers[i]!;
      reader.findNextPoint(frame);
      if (reader.found[FOUND.next]! < frames[POINT]!) frames[POINT] = reader.found[FOUND.next]!;
    }
  }

  /** All gains at a frame: mute, then the taps (before the level or after it), level with trim and VCAs, pan. */
  #evaluate(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const now = this.#now;
    for (let i = 0; i < this.#mutes.length; i++) {
      const mute = this.#mutes[i]!;
      mute.readTravel(frame, arriving, hands);
      if (mute.found[FOUND.travel]! < 0.5) continue;
      now.fill(0);
      return;
    }
    this.#level.readGain(frame, arriving, hands);
    let level = this.#level.found[FOUND.gain]!;
    for (let i = 0; i < this.#vcaLevels.length; i++) {
      this.#vcaLevels[i]!.readGain(frame, arriving, hands);
      level *= this.#vcaLevels[i]!.found[FOUND.gain]!;
    }
    if (level > MAX_GAIN) level = MAX_GAIN;
    this.#pan.readTravel(frame, arriving, hands);
    this.#panGains.turn(this.#pan);
    const out = this.#heard[0] ? level : 0;
    now[0] = out * this.#panGains.sides[0]!;
    now[1] = out * this.#panGains.sides[1]!;
    for (let s = 0; s < this.#sends.length; s++) {
      const send = this.#sends[s]!;
      this.#evaluateSend(s, frame, arriving, hands);
      const gain = send.level.found[FOUND.gain]! * (this.plan.sends[s]!.isPre ? 1 : level);
      const { sides } = send.pan ? send.panGains : this.#panGains;
      // Where it is silent its pan was not looked at.
      now[2 * s + 2] = gain > 0 ? gain * sides[0]! : 0;
      now[2 * s + 3] = gain > 0 ? gain * sides[1]! : 0;
    }
    if (!this.plan.isKey) return;
    now[now.length - 2] = level;
    now[now.length - 1] = level;
  }

  /** Finds a send’s own gain, 0 where it is off, and turns its pan. */
  #evaluateSend(s: number, frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const { on, level, pan, panGains } = this.#sends[s]!;
    on.readTravel(frame, arriving, hands);
    if (!this.#heard[1 + s] || on.found[FOUND.travel]! < 0.5) {
      level.found[FOUND.gain] = 0;
      return;
    }
    level.readGain(frame, arriving, hands);
    if (!pan || !level.found[FOUND.gain]) return;
    pan.readTravel(frame, arriving, hands);
    panGains.turn(pan);
  }
}
