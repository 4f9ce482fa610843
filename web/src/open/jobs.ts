import { useEffect, useRef, useState } from 'react';
import type { Job } from '@sure-hand/server';
import { cancelJob, listJobs } from '../song/songApi.js';
import { onJob, onSongChange } from '../store/telling.js';
import { JobEnds } from './jobEnds.js';

const LOST = 'The server was started anew while it was at this. Do it again.';
type Jobs = ReadonlyMap<string, Job>;

const begunHere = new Set<(job: Job) => void>();

/** Work that was just begun from here is known from now on, whether or not the server comes to tell of it; gives it back. */
export function jobBegun(job: Job): Job {
  for (const listener of begunHere) listener(job);
  return job;
}

/**
 * Follows work that was begun here to its end, also over a server that goes away: what is lost with it has failed. Rejects with
 * the sentence where it failed, with an `AbortError` where it was given up.
 */
export function followJob(begun: Job, onWord: (job: Job) => void, signal: AbortSignal): Promise<Job> {
  return new Promise((done, fail) => {
    const cancel = (): void => {
      void cancelJob(begun.id).catch(() => undefined);
      end();
      fail(new DOMException('given up', 'AbortError'));
    };
    const take = (job: Job): void => {
      if (job.id !== begun.id) return;
      onWord(job);
      if (job.state === 'working') return;
      end();
      if (job.state === 'done') done(job);
      else if (job.state === 'cancelled') fail(new DOMException('given up', 'AbortError'));
      else fail(new Error(job.sentence ?? 'It failed.'));
    };
    const look = (): void =>
      void listJobs().then(
        (list) => take(list.find(({ id }) => id === begun.id) ?? { ...begun, state: 'failed', sentence: LOST }),
        () => undefined,
      );
    const ends = [onJob(take), onSongChange(() => undefined, look)];
    const end = (): void => {
      for (const one of ends) one();
      signal.removeEventListener('abort', cancel);
    };
    if (signal.aborted) return cancel();
    signal.addEventListener('abort', cancel, { once: true });
    take(begun);
    // The server may have been started anew before its answer came.
    look();
  });
}

/**
 * Jobs as a list tells of them, with what was told since: that is newer, but for the end of one, after which nothing comes; where nobody
 * could tell of it, the list alone has it. Work that was known before the list was asked for, and that is not in it, was lost with the
 * server.
 */
export function merged(now: Jobs, list: readonly Job[], before: Jobs): Jobs {
  const listed = new Set(list.map((job) => job.id));
  const lost = [...now.values()]
    .filter((job) => job.state === 'working' && before.has(job.id) && !listed.has(job.id))
    .map((job): Job => ({ ...job, state: 'failed', sentence: LOST }));
  const ended = list.filter((job) => job.state !== 'working');
  return new Map([...list, ...now.values(), ...ended, ...lost].map((job) => [job.id, job]));
}

/**
 * Long work on the server that is of interest here, as it goes on, the oldest first. `onEnd` is called once for each that
 * ends while this is looked at, also where it ended before anybody knew that it is of interest.
 */
export function useJobs(isWanted: (job: Job) => boolean, onEnd: (job: Job) => void = () => undefined): readonly Job[] {
  const [jobs, setJobs] = useState<Jobs>(new Map());
  const ends = useRef(new JobEnds()).current;
  const known = useRef(jobs);
  known.current = jobs;
  useEffect(() => {
    const look = (before = known.current): void => {
      void listJobs().then(
        (list) => {
          ends.listed(list);
          setJobs((now) => merged(now, list, before));
        },
        () => undefined,
      );
    };
    const end = onJob((job) => {
      ends.met(job);
      setJobs((now) => new Map(now).set(job.id, job));
    });
    // What was told of it already is newer than what it was begun as.
    const know = (job: Job): void => {
      ends.met(job);
      setJobs((now) => (now.has(job.id) ? now : new Map(now).set(job.id, job)));
      // The server may have been started anew before its answer came.
      look(new Map(known.current).set(job.id, job));
    };
    begunHere.add(know);
    const endBack = onSongChange(
      () => undefined,
      () => look(),
    );
    look();
    return () => {
      end();
      endBack();
      begunHere.delete(know);
    };
  }, [ends]);
  useEffect(() => {
    for (const job of jobs.values()) {
      if (!ends.isNews(job) || !isWanted(job)) continue;
      ends.told(job);
      onEnd(job);
    }
  });
  return [...jobs.values()].filter(isWanted);
}

/** Says that a job is no longer wanted; its end is told like any other. */
export function giveUp(job: Job): void {
  void cancelJob(job.id).catch(() => undefined);
}
