/** What a meter shows of a channel: the peaks of both sides now, the highest of a while, and whether it went over. */
export type MeterReading = {
  readonly peaks: readonly [number, number];
  readonly held: number;
  readonly clipped: boolean;
};

/** How long the highest peak stands, and how fast it falls after that. */
const HOLD = { standMs: 1500, fallDbPerSec: 24 } as const;
/** From this amplitude on a channel is over: full scale. */
const FULL = 1;
const FAINT = 1e-3;

/** Remembers peaks for the eye: the highest of each channel stands for a while, and a mark stays where one went over. */
export class MeterHold {
  readonly #held = new Map<string, { peak: number; atMs: number }>();
  readonly #clipped = new Set<string>();

  /** Takes a channel's peaks as amplitudes at a moment of the page's clock, and gives back what is to be shown. */
  read(key: string, peaks: readonly [number, number], nowMs: number): MeterReading {
    const peak = Math.max(...peaks);
    if (peak >= FULL) this.#clipped.add(key);
    const held = this.heldAt(key, nowMs);
    if (peak >= held) this.#held.set(key, { peak, atMs: nowMs });
    return { peaks, held: Math.max(held, peak), clipped: this.#clipped.has(key) };
  }

  /** The highest peak of a channel as it still stands. */
  heldAt(key: string, nowMs: number): number {
    const kept = this.#held.get(key);
    if (!kept) return 0;
    const falling = Math.max(0, nowMs - kept.atMs - HOLD.standMs) / 1000;
    return kept.peak * 10 ** ((-HOLD.fallDbPerSec * falling) / 20);
  }

  /** Whether a channel's mark still falls, so that it has to be drawn again. */
  isFalling(key: string, nowMs: number): boolean {
    return this.heldAt(key, nowMs) > FAINT;
  }

  /** Forgets what went over, and the highest peaks. */
  clear(): void {
    this.#held.clear();
    this.#clipped.clear();
  }
}
