import { randomUUID } from 'node:crypto';
import { setMaxListeners } from 'node:events';
import { Injectable, Logger, NotFoundException, type BeforeApplicationShutdown } from '@nestjs/common';
import { Subject } from 'rxjs';
import { noRoomSentence } from '../security/noRoom.js';

export type JobKind = 'import' | 'stems' | 'open' | 'bounce' | 'loudness';

/** A piece of long work: how far it is, and what came of it. */
export type Job = {
  readonly id: string;
  readonly kind: JobKind;
  readonly name: string;
  readonly songId: number | null;
  /** 0 … 1. */
  readonly share: number;
  /** What it is at just now. */
  readonly doing: string;
  readonly state: 'working' | 'done' | 'failed' | 'cancelled';
  /** What went wrong, or what part of it did; null where nothing has. */
  readonly sentence: string | null;
  /** What it found out, where it makes no song and no file. */
  readonly result?: object;
};

/** What the work is given: to say how far it is, and to see that it is no longer wanted. */
export type Work = {
  readonly report: (share: number, doing?: string) => void;
  readonly signal: AbortSignal;
};
/** What finished work has to say: the song it made or belongs to, and what part of it went wrong. */
export type WorkDone = {
  readonly songId?: number;
  readonly sentence?: string | null;
  readonly result?: object;
};

/** A failure that is told as it stands: everything else is told as a fault of the server's own. */
export class JobTrouble extends Error {}

const KEPT = 50;
/** So long work may take to end as the server does. */
const ENDS_WITHIN_MS = 5000;
/** Told at most this often, in milliseconds: ends are always told. */
const TELL_EVERY_MS = 100;

/** Long work in hand, and the last that was done; everyone who watches is told as it goes on. */
@Injectable()
export class JobBoard implements BeforeApplicationShutdown {
  readonly changes = new Subject<Job>();
  readonly #log = new Logger('Jobs');
  readonly #jobs = new Map<string, Job>();
  readonly #aborts = new Map<string, AbortController>();
  readonly #ends = new Map<string, Promise<void>>();

  /** Begins work and gives back its job at once. */
  begin(
    { kind, name, songId = null }: { kind: JobKind; name: string; songId?: number | null },
    work: (on: Work) => Promise<WorkDone>,
  ): Job {
    const id = randomUUID();
    const abort = new AbortController();
    // Every stem of a song hears of it, however many they are.
    setMaxListeners(0, abort.signal);
    this.#aborts.set(id, abort);
    const job: Job = { id, kind, name, songId, share: 0, doing: '', state: 'working', sentence: null };
    this.#say(job);
    let told = 0;
    const report = (share: number, doing?: string): void => {
      const now = Date.now();
      const before = this.#jobs.get(id)!;
      if (before.state !== 'working' || (now - told < TELL_EVERY_MS && doing === before.doing)) return;
      told = now;
      this.#say({ ...before, share, doing: doing ?? before.doing });
    };
    const ends = work({ report, signal: abort.signal })
      .then((done) => this.#end(id, { state: 'done', share: 1, doing: '', ...done }))
      .catch((error: Error) => {
        if (abort.signal.aborted) return this.#end(id, { state: 'cancelled', sentence: null });
        const told = error instanceof JobTrouble ? error.message : noRoomSentence(error);
        if (told === null) this.#log.error(error.stack ?? String(error));
        const sentence = told ?? 'The server failed at this; its log says more.';
        return this.#end(id, { state: 'failed', sentence });
      });
    this.#ends.set(id, ends);
    return job;
  }

  /** The server is told to end: so is all work, and nothing of it is left half made. */
  async beforeApplicationShutdown(): Promise<void> {
    for (const abort of this.#aborts.values()) abort.abort();
    const late = new Promise((next) => setTimeout(next, ENDS_WITHIN_MS).unref());
    await Promise.race([Promise.all(this.#ends.values()), late]);
  }

  list(): Job[] {
    return [...this.#jobs.values()];
  }

  get(id: string): Job {
    const job = this.#jobs.get(id);
    if (!job) throw new NotFoundException('There is no such job; it may be long done.');
    return job;
  }

  /** Says that work is no longer wanted; it ends as soon as it can, and leaves nothing half made. */
  cancel(id: string): Job {
    const job = this.get(id);
    this.#aborts.get(id)?.abort();
    return job;
  }

  #end(id: string, end: Partial<Job>): void {
    this.#aborts.delete(id);
    this.#ends.delete(id);
    this.#say({ ...this.#jobs.get(id)!, ...end });
    const done = [...this.#jobs.values()].filter((job) => job.state !== 'working');
    for (const job of done.slice(0, Math.max(0, done.length - KEPT))) this.#jobs.delete(job.id);
  }

  #say(job: Job): void {
    this.#jobs.set(job.id, job);
    this.changes.next(job);
  }
}
