import { useEffect, useRef, useState } from 'react';
import type { Job } from '@sure-hand/server';
import { cancelJob, listJobs } from '../song/songApi.js';
import { onJob, onSongChange } from './telling.js';

/** Long work on the server that is of interest here, as it goes on; the oldest first. */
export function useJobs(isWanted: (job: Job) => boolean, onEnd: (job: Job) => void = () => undefined): readonly Job[] {
  const [jobs, setJobs] = useState<ReadonlyMap<string, Job>>(new Map());
  const latest = useRef({ isWanted, onEnd });
  latest.current = { isWanted, onEnd };
  useEffect(() => {
    const take = (job: Job): void => {
      if (!latest.current.isWanted(job)) return;
      setJobs((now) => new Map(now).set(job.id, job));
      if (job.state !== 'working') latest.current.onEnd(job);
    };
    // What the socket told meanwhile is newer than a list that was asked for before.
    const look = (): void =>
      void listJobs().then(
        (list) =>
          setJobs(
            (now) =>
              new Map([
                ...list.filter((job) => latest.current.isWanted(job)).map((job) => [job.id, job] as const),
                ...now,
              ]),
          ),
        () => undefined,
      );
    const end = onJob(take);
    const endBack = onSongChange(() => undefined, look);
    look();
    return () => {
      end();
      endBack();
    };
  }, []);
  return [...jobs.values()];
}

/** Says that a job is no longer wanted; its end is told like any other. */
export function giveUp(job: Job): void {
  void cancelJob(job.id).catch(() => undefined);
}
