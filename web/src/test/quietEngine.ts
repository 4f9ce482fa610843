import { HandTable } from '@sure-hand/core/mix';
import { LATE } from '@sure-hand/core/pass';
import { controlsOf, type Song } from '@sure-hand/core/song';
import type { SessionClock } from '../engine/pageClock.js';
import type { HandEngine } from '../hands/handSession.js';

/** An engine without sound, and the page's clock beside it: both stand where the test says. Where it was is remembered. */
export class QuietEngine implements HandEngine, SessionClock {
  readonly hands = new HandTable(new ArrayBuffer(HandTable.bytes(32)), 32);
  isPlaying = false;
  isPlanPending = false;
  ms = 1000;
  /** Song time and wraps by moments of the page's clock. */
  #was: { readonly ms: number; readonly t: number; readonly wraps: number }[] = [{ ms: 0, t: 0, wraps: 0 }];
  #tick: ((nowMs: number) => void) | null = null;
  constructor(public song: Song) {}
  now = (): number => this.ms;
  run = (act: (nowMs: number) => void): (() => void) => {
    this.#tick = act;
    return () => void (this.#tick = null);
  };
  /** Whether the session has asked to be called back as time goes on. */
  get isRunning(): boolean {
    return this.#tick !== null;
  }
  get t(): number {
    return this.positionAt(this.ms);
  }
  /** Time goes on to a place of the song; a second there is one of the page's clock. `wraps`: the loop came round meanwhile. */
  goTo(t: number, wraps = 0): void {
    const last = this.#was.at(-1)!;
    this.ms += wraps ? 100 : Math.max(1, 1000 * (t - last.t));
    this.#was.push({ ms: this.ms, t, wraps: last.wraps + wraps });
  }
  /** The page is called back, as by its clock. */
  tick = (): void => undefined;
  calls(): void {
    this.#tick?.(this.ms);
  }
  /** Long enough that nothing late can come any more. */
  settle(): void {
    this.ms += LATE.ms + 1;
    this.calls();
  }
  slotOf = (id: string): number => [...controlsOf(this.song).keys()].indexOf(id);
  setSong(song: Song): void {
    this.song = song;
  }
  async play(from: number): Promise<string | null> {
    this.isPlaying = true;
    this.ms += 20;
    this.#was.push({ ms: this.ms, t: from, wraps: 0 });
    return null;
  }
  stop(): number {
    this.isPlaying = false;
    return this.t;
  }
  locate(t: number): void {
    this.#was.push({ ms: this.ms, t, wraps: 0 });
  }
  #at(ms: number): { readonly t: number; readonly wraps: number } {
    return this.#was.findLast((one) => one.ms <= ms) ?? this.#was[0]!;
  }
  positionAt = (ms: number): number => this.#at(ms).t;
  heardWraps = (ms: number): number => this.#at(ms).wraps;
}
