import { useRef, useState, type ReactNode } from 'react';
import { Button, FileButton } from '@mantine/core';
import type { Job } from '@sure-hand/server';
import { jobBegun, useJobs } from '../../open/jobs.js';
import { sendZip } from '../../song/upload.js';
import type { Done } from './SongTable.js';

/** Opens a song that was saved with its audio: sent first, then unpacked by the server. */
export function OpenZip({
  onDone,
  onOpened,
}: {
  onDone: (done: Done) => void;
  onOpened: (id: number) => void;
}): ReactNode {
  const [share, setShare] = useState<number | null>(null);
  const sending = useRef<AbortController | null>(null);
  const own = useRef<string | null>(null);
  useJobs(
    (job) => job.id === own.current,
    (job: Job) => {
      own.current = null;
      if (job.state === 'failed') onDone({ sentence: job.sentence ?? 'It could not be opened.', undo: null });
      else if (job.sentence) onDone({ sentence: job.sentence, undo: null });
      else if (job.state === 'done' && job.songId !== null) onOpened(job.songId);
    },
  );
  const send = async (file: File | null): Promise<void> => {
    if (!file) return;
    sending.current = new AbortController();
    setShare(0);
    try {
      const job = await sendZip(file, { onShare: setShare, signal: sending.current.signal });
      own.current = job.id;
      jobBegun(job);
    } catch (error) {
      if ((error as Error).name !== 'AbortError') onDone({ sentence: (error as Error).message, undo: null });
    }
    setShare(null);
  };
  if (share !== null)
    return (
      <Button variant="default" onClick={() => sending.current?.abort()}>
        Sending {Math.floor(100 * share)} % · cancel
      </Button>
    );
  return (
    <FileButton accept=".zip,application/zip" onChange={(file) => void send(file)}>
      {(props) => (
        <Button variant="default" {...props}>
          Open a saved song
        </Button>
      )}
    </FileButton>
  );
}
