import type { Job } from '../jobs/jobBoard.js';

/** A job as it is once it is no longer at work. `ask`: asks the server of that moment. */
export async function endedJob(
  ask: (path: string) => Promise<{ readonly body: Job }>,
  { id }: Pick<Job, 'id'>,
): Promise<Job> {
  for (;;) {
    const { body } = await ask(`/jobs/${id}`);
    if (body.state !== 'working') return body;
    await new Promise((again) => setTimeout(again, 20));
  }
}
