import { useEffect, useRef, useState } from 'react';
import type { Job } from '@sure-hand/server';
import { cancelJob, listJobs } from '../song/songApi.js';
import { onJob, onSongChange } from '../store/telling.js';

const LOST = 'The server was started anew while it was at this. Do it again.';
type Jobs = ReadonlyMap<string, Job>;

/**
 * Jobs as a list tells of them, with what was told since: that is newer. Work that was known before the list was asked
 * for, and that is not in it, was lost with the server.
 */
function merged(now: Jobs, list: readonly Job[], before: Jobs): Jobs {
  const listed = new Set(list.map((job) => job.id));
  const lost = [...now.values()]
    .filter((job) => job.state === 'working' && before.has(job.id) && !listed.has(job.id))
    .map((job): Job => ({ ...job, state: 'failed', sentence: LOST }));
  return new Map([...list, ...now.values(), ...lost].map((job) => [job.id, job]));
}

/**
 * Long work on the server that is of interest here, as it goes on, the oldest first. `onEnd` is called once for each that
 * ends while this is looked at, also where it ended before anybody knew that it is of interest.
 */
export function useJobs(isWanted: (job: Job) => boolean, onEnd: (job: Job) => void = () => undefined): readonly Job[] {
  const [jobs, setJobs] = useState<Jobs>(new Map());
  const told = useRef<Set<string> | null>(null);
  const known = useRef(jobs);
  known.current = jobs;
  useEffect(() => {
    const look = (): void => {
      const before = known.current;
      void listJobs().then(
        (list) => {
          // What had ended before one came here is no news.
          told.current ??= new Set(list.filter((job) => job.state !== 'working').map((job) => job.id));
          setJobs((now) => merged(now, list, before));
        },
        () => undefined,
      );
    };
    const end = onJob((job) => setJobs((now) => new Map(now).set(job.id, job)));
    const endBack = onSongChange(() => undefined, look);
    look();
    return () => {
      end();
      endBack();
    };
  }, []);
  useEffect(() => {
    for (const job of jobs.values()) {
      if (job.state === 'working' || !isWanted(job) || !told.current || told.current.has(job.id)) continue;
      told.current.add(job.id);
      onEnd(job);
    }
  });
  return [...jobs.values()].filter(isWanted);
}

/** Says that a job is no longer wanted; its end is told like any other. */
export function giveUp(job: Job): void {
  void cancelJob(job.id).catch(() => undefined);
}
