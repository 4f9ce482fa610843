import { pointsIn, type Point } from '../curve/index.js';
import {
  applyEdit,
  controlsOf,
  foldedLane,
  guardOn,
  laneOf,
  type ChannelKey,
  type ControlId,
  type Edit,
  type Layer,
  type LaneReceipt,
  type Receipt,
  type Refusal,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';
import { LaneTake } from './laneTake.js';

/** What stopped hands did since the last pass. */
export type StoppedHands = { readonly refused: readonly Refusal[]; readonly rested: ReadonlySet<ControlId> };

/** One open pass, or one lap of a loop: where it began, how far it is, and what has been written so far. */
export class Roll {
  now: Seconds;
  readonly refused: Refusal[];
  readonly rested: Set<ControlId>;
  /** Channels whose write mode was let go of: it does not begin again in this pass. */
  readonly writeLetGo = new Set<ChannelKey>();
  /** Channels whose trim went off in this pass: where the song folds then, it does so once the pass is written. */
  readonly trimWentOff = new Set<ChannelKey>();
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
  }

  /** Every lane's layer that the pass has written on, in the order of their first spans. */
  get takes(): readonly LaneTake[] {
    return [...this.#takes.values()];
  }

  /** The take on a layer of a control; undefined where the pass has not written there. */
  take(id: ControlId, layer: Layer): LaneTake | undefined {
    return this.#takes.get(`${layer} ${id}`);
  }

  /** Begins a span at the current time, making the take if this is its first. */
  begin(song: Song, id: ControlId, layer: Layer, v: number, hasFinger: boolean): void {
    let take = this.take(id, layer);
    if (!take) this.#takes.set(`${layer} ${id}`, (take = new LaneTake(song, id, layer)));
    take.begin(this.now, v, hasFinger);
  }

  /** Ends the pass at `to`: its receipt, and the edit that keeps what was written, null where nothing was. */
  finish(song: Song, to: Seconds): { readonly receipt: Receipt; readonly pass: (Edit & { kind: 'pass' }) | null } {
    const results = this.takes.flatMap((take) => take.result(song.settings.thin) ?? []);
    const pieces = results.flatMap((result) => result.pieces);
    const bare = { lap: this.lap, from: this.from, to, refused: this.refused, rested: [...this.rested] };
    const after = applyEdit(song, { kind: 'pass', pieces, receipt: { ...bare, lanes: [] } }).song;
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
    const receipt: Receipt = { lap, from, to, lanes, refused, rested };
    return {
      receipt,
      pass: pieces.length ? { kind: 'pass', pieces, receipt, ...(fold.length ? { fold } : {}) } : null,
    };
  }

  /** Controls whose trim is folded as the pass is committed: where it wrote trim, or where trim went off meanwhile. */
  #folds(song: Song, written: readonly Omit<LaneReceipt, 'points'>[]): ControlId[] {
    const { foldTrim } = song.settings;
    const ids = written.flatMap(({ control, layer }) => {
      if (foldTrim === 'stop') return layer === 'trim' ? [control] : [];
      return foldTrim === 'off' && this.trimWentOff.has(controlsOf(song).get(control)!.channel) ? [control] : [];
    });
    return [...new Set(ids)].filter((id) => guardOn(song, id) === null);
  }
}

/** Counts the points that stand within the spans, each once, in the lane as it is after the pass. */
function withPoints(after: Song, { maxDeviation, clamped, ...receipt }: Omit<LaneReceipt, 'points'>): LaneReceipt {
  const lane = laneOf(after, receipt.control);
  const curve = receipt.layer === 'trim' ? lane.trim : lane.points;
  const points = new Set<Point>(receipt.spans.flatMap((span) => pointsIn(curve, span)));
  return { ...receipt, points: points.size, maxDeviation, clamped };
}
