import { useCallback, useEffect, useState, type ReactNode } from 'react';
import { Alert, Button, Group, Loader, Stack, Text, Title } from '@mantine/core';
import { Link, useNavigate } from 'react-router';
import type { ListedSong } from '@sure-hand/server';
import { giveUp, useJobs } from '../../open/jobs.js';
import { JobLine } from '../../parts/JobLine.js';
import { listSongs } from '../../song/songApi.js';
import { onSongChange } from '../../store/telling.js';
import { LostSongs } from './LostSongs.js';
import { OpenZip } from './OpenZip.js';
import { SongTable, type Done } from './SongTable.js';
import { WaitingEdits } from './WaitingEdits.js';

/** With the server away the list looks for it so often. */
const LOOK_AGAIN_MS = 2500;

/** The songs there are, looked for again as one changes; with the server away, the sentence that says so. */
function useSongs(): { songs: ListedSong[] | null; trouble: string | null; look: () => Promise<void> } {
  const [songs, setSongs] = useState<ListedSong[] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const look = useCallback(
    () =>
      listSongs().then(
        (list) => {
          setSongs(list);
          setTrouble(null);
        },
        (error: Error) => setTrouble(error.message),
      ),
    [],
  );
  useEffect(() => void look(), [look]);
  const isAway = trouble !== null;
  // With the server away it looks again by itself, as soon as that is back at the latest; the button stays.
  useEffect(() => {
    if (!isAway) return;
    const timer = setInterval(() => void look(), LOOK_AGAIN_MS);
    return () => clearInterval(timer);
  }, [isAway, look]);
  useEffect(
    () =>
      onSongChange(
        () => void look(),
        () => void look(),
      ),
    [look],
  );
  return { songs, trouble, look };
}

/** Every song there is, the last changed first, and all that can be done to a song as a whole. */
export function SongList(): ReactNode {
  const { songs, trouble, look } = useSongs();
  const [done, setDone] = useState<Done | null>(null);
  const navigate = useNavigate();
  const jobs = useJobs(
    (job) => job.kind !== 'bounce',
    (job) => {
      if (job.state === 'done') void look();
    },
  );
  const act = async (what: () => Promise<Done | null>): Promise<void> => {
    try {
      setDone(await what());
      await look();
    } catch (error) {
      setDone({ sentence: (error as Error).message, undo: null });
    }
  };
  return (
    <main className="songs">
      <Group justify="space-between" align="flex-end" mb="lg">
        <div>
          <Title order={1} fz={28}>
            Sure Hand
          </Title>
          <Text c="dimmed">Songs on this machine</Text>
        </div>
        <Group gap="xs">
          <OpenZip onDone={setDone} onOpened={(id) => void navigate(`/songs/${id}/ride`)} />
          <Button component={Link} to="/new" color="gray" variant="filled">
            New song from stems
          </Button>
        </Group>
      </Group>
      {done && (
        <DoneLine
          done={done}
          onUndo={(undo) => void act(() => undo().then(() => null))}
          onClose={() => setDone(null)}
        />
      )}
      {jobs
        .filter((job) => job.state === 'working')
        .map((job) => (
          <JobLine key={job.id} job={job} onCancel={() => giveUp(job)} />
        ))}
      <WaitingEdits songs={songs} />
      {trouble ? (
        <NoSongs trouble={trouble} again={() => void look()} />
      ) : songs ? (
        <SongTable songs={songs} act={act} />
      ) : (
        <Loader />
      )}
      <LostSongs songs={songs} act={act} />
    </main>
  );
}

type DoneProps = {
  readonly done: Done;
  readonly onUndo: (undo: () => Promise<void>) => void;
  readonly onClose: () => void;
};

function DoneLine({ done: { sentence, undo }, onUndo, onClose }: DoneProps): ReactNode {
  return (
    <Alert color="gray" variant="outline" mb="md" withCloseButton onClose={onClose} role="status">
      <Group justify="space-between" wrap="nowrap">
        <Text fz="sm">{sentence}</Text>
        {undo && (
          <Button size="xs" variant="default" onClick={() => onUndo(undo)}>
            Undo
          </Button>
        )}
      </Group>
    </Alert>
  );
}

function NoSongs({ trouble, again }: { trouble: string; again: () => void }): ReactNode {
  return (
    <Alert color="hand" title="The songs can’t be shown" variant="outline">
      <Stack align="flex-start" gap="xs">
        {trouble} Start it with npm start; the songs come up by themselves once it is there.
        <Button size="xs" variant="default" onClick={again}>
          Try again
        </Button>
      </Stack>
    </Alert>
  );
}
