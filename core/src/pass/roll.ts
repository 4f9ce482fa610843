import { placesIn } from '../curve/index.js';
import {
  applyEdit,
  foldedLane,
  whyNotFolded,
  type Edit,
  type Heeded,
  type LaneReceipt,
  type Receipt,
} from '../edits/index.js';
import { laneOf, type ChannelKey, type ControlId, type Layer, type Refusal, type Song } from '../song/index.js';
import type { Seconds } from '../units/index.js';
import { LaneTake, type TakeMark } from './laneTake.js';

/** What stopped hands did since the last pass. */
export type StoppedHands = {
  readonly refused: readonly Refusal[];
  readonly rested: ReadonlySet<ControlId>;
  /** Controls of snapshots they used that are gone. */
  readonly gone: ReadonlySet<ControlId>;
};

/** A pass as it was at a moment: see {@link Roll.mark}. */
export type RollMark = {
  readonly now: Seconds;
  readonly refused: readonly Refusal[];
  readonly rested: readonly ControlId[];
  readonly gone: readonly ControlId[];
  readonly writeLetGo: readonly ChannelKey[];
  readonly heeded: readonly (readonly [ControlId, Heeded])[];
  readonly punchedIn: boolean;
  readonly punchedOut: boolean;
  readonly takes: readonly (readonly [string, LaneTake, TakeMark])[];
};

function refill<T>(set: Set<T>, items: readonly T[]): void {
  set.clear();
  for (const item of items) set.add(item);
}

/** One open pass, or one lap of a loop: where it began, how far it is, and what has been written so far. */
export class Roll {
  now: Seconds;
  readonly refused: Refusal[];
  readonly rested: Set<ControlId>;
  /** Controls of snapshots used in it, or stopped before it, that are gone. */
  readonly gone: Set<ControlId>;
  /** Channels whose write mode was let go of: it does not begin again in this pass. */
  readonly writeLetGo = new Set<ChannelKey>();
  /** Guards that came on since it began, and still stand. */
  readonly heeded = new Map<ControlId, Heeded>();
  punchedIn = false;
  punchedOut = false;
  readonly #takes = new Map<string, LaneTake>();

  constructor(
    readonly from: Seconds,
    readonly lap: number,
    before: StoppedHands,
  ) {
    this.now = from;
    this.refused = [...before.refused];
    this.rested = new Set(before.rested);
    this.gone = new Set(before.gone);
  }

  /** Every lane's layer that the pass has written on, in the order of their first spans. */
  get takes(): readonly LaneTake[] {
    return [...this.#takes.values()];
  }

  /** The take on a layer of a control; undefined where the pass has not written there. */
  take(id: ControlId, layer: Layer): LaneTake | undefined {
    return this.#takes.get(`${layer} ${id}`);
  }

  /** A guard of a control came on (safe, parked), or went: what it writes ends with it, a return line too (rules, 5). */
  heed(control: ControlId, reason: Heeded['reason'] | null): void {
    if (reason === null) return void this.heeded.delete(control);
    this.heeded.set(control, { control, reason, t: this.now });
    for (const layer of ['base', 'trim'] as const) this.take(control, layer)?.cutLine(this.now);
  }

  /** The song has changed under the pass. */
  follow(song: Song): void {
    for (const take of this.#takes.values()) take.follow(song);
  }

  /** Controls that have gone: what was written of them goes, and nothing is said of them. */
  forget(isGone: (id: ControlId) => boolean): void {
    for (const [key, take] of this.#takes) if (isGone(take.control)) this.#takes.delete(key);
    for (const id of [...this.heeded.keys(), ...this.rested])
      if (isGone(id)) {
        this.heeded.delete(id);
        this.rested.delete(id);
      }
    const kept = this.refused.filter(({ control }) => !isGone(control));
    this.refused.splice(0, this.refused.length, ...kept);
  }

  /** The pass as it is now, to come {@link back} to. */
  mark(): RollMark {
    return {
      now: this.now,
      refused: [...this.refused],
      rested: [...this.rested],
      gone: [...this.gone],
      writeLetGo: [...this.writeLetGo],
      heeded: [...this.heeded],
      punchedIn: this.punchedIn,
      punchedOut: this.punchedOut,
      takes: [...this.#takes].map(([key, take]) => [key, take, take.mark()]),
    };
  }

  /** Forgets all that came since a mark of this pass. */
  back(mark: RollMark): void {
    this.now = mark.now;
    this.refused.splice(0, this.refused.length, ...mark.refused);
    refill(this.rested, mark.rested);
    refill(this.gone, mark.gone);
    refill(this.writeLetGo, mark.writeLetGo);
    this.heeded.clear();
    for (const [id, heeded] of mark.heeded) this.heeded.set(id, heeded);
    this.punchedIn = mark.punchedIn;
    this.punchedOut = mark.punchedOut;
    this.#takes.clear();
    for (const [key, take, at] of mark.takes) {
      take.back(at);
      this.#takes.set(key, take);
    }
  }

  /** Begins a span at the current time, making the take if this is its first. */
  begin(song: Song, id: ControlId, layer: Layer, v: number, hasFinger: boolean): void {
    let take = this.take(id, layer);
    if (!take) this.#takes.set(`${layer} ${id}`, (take = new LaneTake(song, id, layer)));
    take.begin(this.now, v, hasFinger);
  }

  /** Does in advance a little of what the end of the pass would have to do: one span that has ended is thinned. */
  workOff(): void {
    for (const take of this.#takes.values()) if (take.workOff(this.now)) return;
  }

  /** Ends the pass at `to`: its receipt, and the edit that keeps what was written, null where nothing was. */
  finish(song: Song, to: Seconds): { readonly receipt: Receipt; readonly pass: (Edit & { kind: 'pass' }) | null } {
    const results = this.takes.flatMap((take) => take.result(song.settings.thin) ?? []);
    const pieces = results.flatMap((result) => result.pieces);
    // What is given out is its receiver's, who may keep it for ever: the pass may still be gone back into, and done again.
    const bare = { lap: this.lap, from: this.from, to, refused: [...this.refused], rested: [...this.rested] };
    const written = new Set(pieces.map((piece) => piece.control));
    const heeded = [...this.heeded.values()].filter(({ control }) => written.has(control));
    const guards = heeded.length ? { heeded } : {};
    const after = applyEdit(song, { kind: 'pass', pieces, receipt: { ...bare, lanes: [] }, ...guards }).song;
    const fold = this.#folds(
      song,
      results.map((result) => result.receipt),
    );
    const lanes = results.map(({ receipt }) => {
      const isFolded = receipt.layer === 'trim' && fold.includes(receipt.control);
      const { clamped } = isFolded ? foldedLane(after, receipt.control, laneOf(after, receipt.control)) : receipt;
      return withPoints(after, { ...receipt, clamped });
    });
    const { lap, from, refused, rested } = bare;
    const gone = this.gone.size ? { gone: [...this.gone] } : {};
    const receipt: Receipt = { lap, from, to, lanes, refused, rested, ...gone };
    return {
      receipt,
      pass: pieces.length ? { kind: 'pass', pieces, receipt, ...(fold.length ? { fold } : {}), ...guards } : null,
    };
  }

  /** Controls whose trim is folded as the pass is committed: where it wrote trim, and the song folds with each pass. */
  #folds(song: Song, written: readonly Omit<LaneReceipt, 'points'>[]): ControlId[] {
    if (song.settings.foldTrim !== 'pass') return [];
    const trimmed = written.filter(({ layer }) => layer === 'trim').map(({ control }) => control);
    return trimmed.filter((id) => whyNotFolded(song, id) === null);
  }
}

/** Counts the points that stand within the spans, each once, in the lane as it is after the pass. */
function withPoints(after: Song, { maxDeviation, clamped, ...receipt }: Omit<LaneReceipt, 'points'>): LaneReceipt {
  const lane = laneOf(after, receipt.control);
  const curve = receipt.layer === 'trim' ? lane.trim : lane.points;
  let points = 0;
  let counted = 0;
  for (const [first, end] of receipt.spans.map((span) => placesIn(curve, span))) {
    points += Math.max(0, end - Math.max(first, counted));
    counted = Math.max(counted, end);
  }
  return { ...receipt, points, maxDeviation, clamped };
}
