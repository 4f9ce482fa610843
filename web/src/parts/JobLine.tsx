import type { ReactNode } from 'react';
import { Button, Group, Progress, Text } from '@mantine/core';
import type { Job } from '@sure-hand/server';

const KIND_WORDS: Record<Job['kind'], string> = {
  import: 'Making',
  stems: 'Taking stems into',
  open: 'Opening',
  bounce: 'Bouncing',
  loudness: 'Measuring',
};

/** A piece of long work: what it is at, how far it is, and a way to give it up. */
export function JobLine({ job, onCancel }: { job: Job; onCancel: () => void }): ReactNode {
  return (
    <Group gap="sm" wrap="nowrap" className="job" role="group" aria-label={`${KIND_WORDS[job.kind]} ${job.name}`}>
      <div className="job-words">
        <Text fz="sm" truncate>
          {KIND_WORDS[job.kind]} {job.name}
        </Text>
        <Text fz="xs" c="dimmed" truncate>
          {job.doing || 'Beginning'}
        </Text>
      </div>
      <Progress value={100 * job.share} className="job-bar" aria-label="Progress" />
      <Text fz="sm" className="figures job-share">
        {Math.floor(100 * job.share)} %
      </Text>
      <Button size="xs" variant="default" onClick={onCancel}>
        Cancel
      </Button>
    </Group>
  );
}
