import { applyEdit, type Edit } from '../edits/index.js';
import { type Song } from '../song/index.js';
import type { Seconds } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { PassRecorder, type Outcome, type RecorderMark } from './recorder.js';

/** How late a hand's event may come and still count from the moment at which it was made; and how often a way back is kept. */
export const LATE = { ms: 100, markEveryMs: 40 } as const;

/**
 * When something was made. `phase` counts plays, wraps and stops: whatever is made between two of them belongs to one.
 * `at` is the moment on the page's clock, in milliseconds.
 */
export type Moment = { readonly phase: number; readonly at: number };

/** What a recorder is given to do: a hand's event (its `t` as heard at its moment), a wrap, time that goes on, a song from elsewhere. */
export type Deed =
  | { readonly do: 'hand'; readonly event: HandEvent }
  | { readonly do: 'wrap' }
  | { readonly do: 'time'; readonly t: Seconds }
  | { readonly do: 'adopt'; readonly song: Song };

/** What a deed led to, with the song before and after it. `key` is what its giver knows it by. */
export type Told = Outcome & {
  readonly key: string | null;
  /** Whether the song rolled as it was done. */
  readonly rolled: boolean;
  readonly before: Song;
  readonly after: Song;
};

type Entry = {
  readonly moment: Moment;
  deed: Deed;
  readonly key: string | null;
  /** It opens its phase: whatever else is made in that comes after it. */
  readonly opens: boolean;
  /** Of a song from elsewhere: what was told by then. All else that comes before it, however late, it does not know of. */
  readonly knows: Set<Entry>;
  told: Told;
  isTold: boolean;
};

const opensPhase = ({ do: what, ...deed }: Deed): boolean =>
  what === 'wrap' || (what === 'hand' && ['play', 'stop'].includes((deed as { event: HandEvent }).event.do));

const isAfter = (a: Entry, moment: Moment, opens: boolean): boolean => {
  if (a.moment.phase !== moment.phase) return a.moment.phase > moment.phase;
  return a.opens || opens ? !a.opens : a.moment.at > moment.at;
};

/**
 * What changes a mode is told at once, and again where something before it comes late that matters to it: it changes nothing of what is told
 * after it. A guard would: what a hand set before it, and is told after it, would be refused.
 */
const AT_ONCE: readonly HandEvent['do'][] = ['mode', 'desk', 'trim', 'scope'];
const isAtOnce = ({ deed }: Entry): boolean => deed.do === 'hand' && AT_ONCE.includes(deed.event.do);
const isSame = (some: readonly Edit[], others: readonly Edit[]): boolean =>
  JSON.stringify(some) === JSON.stringify(others);
const hasNews = ({ told }: Entry): boolean => told.edits.length > 0 || told.receipts.length > 0;

/**
 * A recorder that counts everything in the order in which it was made, however late it comes: a finger that moved before
 * a wrap moved in the lap before it, though the wrap was known first (rules, 5). Each deed is done at once, so that it is
 * heard and seen; where one turns out to have come before others, the recorder goes back and does them again in order.
 * What came of them is told to be kept only once nothing can come before it any more.
 */
export class OrderedHands {
  readonly recorder: PassRecorder;
  #entries: Entry[] = [];
  /** Ways back, oldest first: how many entries had been done, and the recorder as it was then. */
  #marks: { readonly done: number; readonly at: number; readonly mark: RecorderMark }[] = [];

  constructor(song: Song) {
    this.recorder = new PassRecorder(song);
  }

  /** Does something made at a moment; gives back what it, and all that had to be done again after it, led to. */
  take(moment: Moment, deed: Deed, key: string | null = null): readonly Told[] {
    const opens = opensPhase(deed);
    const entry = this.#entry(moment, deed, opens, key);
    const place = this.#placeOf(entry.moment, opens);
    const isLast = place === this.#entries.length;
    this.#entries.splice(place, 0, entry);
    if (!isLast) {
      // Of two modes the later one stands.
      if (isAtOnce(entry)) for (const one of this.#entries.slice(place + 1)) if (isAtOnce(one)) this.#untell(one);
      return this.#again(place);
    }
    this.#markWhere(entry.moment.at);
    this.#do(entry);
    return [entry.told];
  }

  /** What can be told to be kept now, in order; everything where `all` is set, as nothing late is waited for any more. */
  tell(nowMs: number, all = false): readonly Told[] {
    const told: Told[] = [];
    // What has led to nothing yet may still, where something comes before it: it is not told before its time.
    const forced = all ? this.#entries.findLastIndex(hasNews) : -1;
    // Edits are told in their order: behind one that is waited for all others wait.
    let isHeld = false;
    for (const [i, entry] of this.#entries.entries()) {
      if (entry.isTold) continue;
      const isDue = i <= forced || nowMs - entry.moment.at >= LATE.ms || isAtOnce(entry);
      if (isDue && !isHeld) {
        entry.isTold = true;
        told.push(entry.told);
      } else isHeld ||= entry.told.edits.length > 0;
    }
    this.#forget(nowMs);
    return told;
  }

  /** Whether something has been done that is not told yet. */
  get waits(): boolean {
    return this.#entries.some((entry) => !entry.isTold && hasNews(entry));
  }

  #entry(moment: Moment, deed: Deed, opens: boolean, key: string | null): Entry {
    const knows = new Set(deed.do === 'adopt' ? this.#entries.filter((one) => one.isTold) : []);
    const { song } = this.recorder;
    const told = { edits: [], receipts: [], key, rolled: false, before: song, after: song };
    return { moment: this.#notTooLate(moment), deed, key, opens, knows, told, isTold: false };
  }

  /** What comes later than can be waited for counts from the earliest moment there is a way back to. */
  #notTooLate(moment: Moment): Moment {
    const first = this.#marks[0];
    const before = first && this.#entries[first.done - 1]?.moment;
    if (!before || moment.phase > before.phase || (moment.phase === before.phase && moment.at >= before.at))
      return moment;
    return before;
  }

  #placeOf(moment: Moment, opens: boolean): number {
    let place = this.#entries.length;
    // What was told stands, and with it all before it.
    const isFixed = (entry: Entry): boolean =>
      entry.isTold && !isAtOnce(entry) && (entry.opens || entry.told.edits.length > 0);
    const goesBefore = (entry: Entry): boolean => isAfter(entry, moment, opens) && !isFixed(entry);
    while (place > 0 && goesBefore(this.#entries[place - 1]!)) place--;
    return place;
  }

  /** What was told at once turns out to come after something that was not told: it is told again, after that. */
  #untell(entry: Entry): void {
    entry.isTold = false;
    for (const { knows } of this.#entries) knows.delete(entry);
  }

  #markWhere(at: number): void {
    const last = this.#marks.at(-1);
    if (last && at - last.at < LATE.markEveryMs) return;
    this.#marks.push({ done: this.#entries.length - 1, at, mark: this.recorder.mark() });
  }

  /** Goes back to before an entry and does it and what follows again. */
  #again(place: number): readonly Told[] {
    while (this.#marks.at(-1)!.done > place) this.#marks.pop();
    const { done, mark } = this.#marks.at(-1)!;
    this.recorder.back(mark);
    const redone = this.#entries.slice(done);
    for (const entry of redone) this.#do(entry);
    return redone.slice(place - done).map(({ told }) => told);
  }

  #do(entry: Entry): void {
    const before = this.recorder.song;
    const rolled = this.recorder.roll !== null;
    const outcome = this.#outcomeOf(entry);
    // What was told stands, unless at once, and there was more to it, as a hand's rest that it had kept.
    if (entry.isTold && isAtOnce(entry) && !isSame(entry.told.edits, outcome.edits)) this.#untell(entry);
    if (!entry.isTold) entry.told = { ...outcome, key: entry.key, rolled, before, after: this.recorder.song };
  }

  #outcomeOf(entry: Entry): Outcome {
    const { recorder } = this;
    const { deed, knows } = entry;
    switch (deed.do) {
      case 'hand':
        return recorder.handle(this.#inThisPass(deed.event));
      case 'wrap':
        return recorder.wrap();
      case 'time':
        return recorder.advance(deed.t);
      case 'adopt': {
        const before = this.#entries.slice(0, this.#entries.indexOf(entry));
        const edits = before.filter((one) => !knows.has(one)).flatMap<Edit>((one) => one.told.edits);
        recorder.adopt(edits.reduce((song, edit) => applyEdit(song, edit).song, deed.song));
        return { edits: [], receipts: [] };
      }
    }
  }

  /** An event that came too late for its own lap has no time in this one: it counts from now. */
  #inThisPass(event: HandEvent): HandEvent {
    const { roll } = this.recorder;
    if (!roll || event.lap === undefined || event.lap === roll.lap) return event;
    const { t: _t, lap: _lap, ...bare } = event;
    return bare as HandEvent;
  }

  /** What a song from elsewhere does not know of, and is forgotten here, is in that song from now on. */
  #keepOnTop(entry: Entry, forgotten: readonly Entry[]): void {
    const { deed, knows } = entry;
    if (deed.do !== 'adopt') return;
    const edits = forgotten.filter((one) => !knows.has(one)).flatMap(({ told }) => told.edits);
    for (const one of forgotten) knows.delete(one);
    if (edits.length)
      entry.deed = { ...deed, song: edits.reduce((song, edit) => applyEdit(song, edit).song, deed.song) };
  }

  /** What lies longer back than anything late can come from is not done again any more. */
  #forget(nowMs: number): void {
    const isSettled = (done: number): boolean => this.#entries.slice(0, done).every(({ isTold }) => isTold);
    const kept = this.#marks.findLastIndex(({ at, done }) => nowMs - at >= LATE.ms && isSettled(done));
    if (kept < 0) return;
    const { done } = this.#marks[kept]!;
    const forgotten = this.#entries.splice(0, done);
    for (const entry of this.#entries) this.#keepOnTop(entry, forgotten);
    this.#marks = this.#marks.slice(kept).map((one) => ({ ...one, done: one.done - done }));
  }
}
