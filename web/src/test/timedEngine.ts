import { HandTable } from '@sure-hand/core/mix';
import { controlsOf, loopOf, type Song } from '@sure-hand/core/song';
import type { SessionClock } from '../engine/pageClock.js';
import type { SoundingEngine } from '../open/handsOn.js';

/** An engine without sound whose song goes on with the page's clock, round its loop, and the clock, which a test sets. */
export class TimedEngine implements SoundingEngine, SessionClock {
  readonly hands = new HandTable(new ArrayBuffer(HandTable.bytes(64)), 64);
  isPlaying = false;
  isPlanPending = false;
  onPlanned = (): void => undefined;
  onEnded = (): void => undefined;
  onLost = (): void => undefined;
  ms = 1000;
  #position = 0;
  /** The roll that is under way, or was last. */
  #roll: { readonly at: number; readonly from: number; readonly loop: readonly [number, number] | null } | null = null;
  #stoppedAt = -Infinity;
  #act: ((nowMs: number) => void) | null = null;

  constructor(public song: Song) {}

  now = (): number => this.ms;
  run = (act: (nowMs: number) => void): (() => void) => {
    this.#act = act;
    return () => void (this.#act = null);
  };
  /** The page is called back, as by its clock. */
  calls(): void {
    this.#act?.(this.ms);
  }
  tick = (): void => undefined;
  slotOf = (id: string): number => [...controlsOf(this.song).keys()].indexOf(id);
  setSong(song: Song): void {
    this.song = song;
  }
  async play(from: number): Promise<string | null> {
    const loop = loopOf(this.song);
    this.#roll = { at: this.ms, from, loop: loop && from < loop[1] ? loop : null };
    this.isPlaying = true;
    this.#stoppedAt = -Infinity;
    return null;
  }
  stop(nowMs: number): number {
    const t = this.positionAt(nowMs);
    this.isPlaying = false;
    this.#stoppedAt = nowMs;
    this.#position = t;
    return t;
  }
  locate(t: number): void {
    this.#position = t;
  }
  /** Where the song is at a moment, and how often it has come round by then. */
  #at(ms: number): { readonly t: number; readonly wraps: number } {
    const isRoll = this.#roll !== null && (this.isPlaying || ms < this.#stoppedAt);
    if (!isRoll) return { t: this.#position, wraps: 0 };
    const { at, from, loop } = this.#roll!;
    const t = Math.max(from, from + (ms - at) / 1000);
    if (!loop || t < loop[1]) return { t: Math.min(this.song.length, t), wraps: 0 };
    const laps = Math.floor((t - loop[1]) / (loop[1] - loop[0]));
    return { t: loop[0] + (t - loop[1] - laps * (loop[1] - loop[0])), wraps: laps + 1 };
  }
  positionAt = (ms: number): number => this.#at(ms).t;
  heardWraps = (ms: number): number => this.#at(ms).wraps;
}
