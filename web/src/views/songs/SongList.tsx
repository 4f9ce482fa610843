import { useCallback, useEffect, useRef, useState, type ReactNode } from 'react';
import {
  ActionIcon,
  Alert,
  Button,
  FileButton,
  Group,
  Loader,
  Menu,
  Stack,
  Table,
  Text,
  TextInput,
  Title,
} from '@mantine/core';
import { IconDotsVertical } from '@tabler/icons-react';
import { Link, useNavigate } from 'react-router';
import { printClock } from '@sure-hand/core/time';
import type { Job, ListedSong } from '@sure-hand/server';
import { JobLine } from '../../parts/JobLine.js';
import { giveUp, useJobs } from '../../open/jobs.js';
import { outbox, useAppDispatch, useAppSelector } from '../../store/store.js';
import { onSongChange } from '../../store/telling.js';
import { refusalsSeen } from '../../song/outboxSlice.js';
import { duplicateSong, listSongs, removeSong, renameSong, restoreSong, zipUrl } from '../../song/songApi.js';
import { sendZip } from '../../song/upload.js';

/** With the server away the list looks for it so often. */
const LOOK_AGAIN_MS = 2500;

/** What was done to the list, told above it; with a way back where there is one. */
type Done = { readonly sentence: string; readonly undo: (() => Promise<void>) | null };

/** Every song there is, the last changed first, and all that can be done to a song as a whole. */
export function SongList(): ReactNode {
  const [songs, setSongs] = useState<ListedSong[] | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [done, setDone] = useState<Done | null>(null);
  const navigate = useNavigate();
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
        <Alert color="gray" variant="outline" mb="md" withCloseButton onClose={() => setDone(null)} role="status">
          <Group justify="space-between" wrap="nowrap">
            <Text fz="sm">{done.sentence}</Text>
            {done.undo && (
              <Button size="xs" variant="default" onClick={() => void act(() => done.undo!().then(() => null))}>
                Undo
              </Button>
            )}
          </Group>
        </Alert>
      )}
      {jobs
        .filter((job) => job.state === 'working')
        .map((job) => (
          <JobLine key={job.id} job={job} onCancel={() => giveUp(job)} />
        ))}
      <Waiting songs={songs} />
      {trouble ? (
        <Alert color="hand" title="The songs can’t be shown" variant="outline">
          <Stack align="flex-start" gap="xs">
            {trouble} Start it with npm start; the songs come up by themselves once it is there.
            <Button size="xs" variant="default" onClick={() => void look()}>
              Try again
            </Button>
          </Stack>
        </Alert>
      ) : songs ? (
        <Songs songs={songs} act={act} />
      ) : (
        <Loader />
      )}
    </main>
  );
}

/** Opens a song that was saved with its audio: sent first, then unpacked by the server. */
function OpenZip({ onDone, onOpened }: { onDone: (done: Done) => void; onOpened: (id: number) => void }): ReactNode {
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
      own.current = (await sendZip(file, { onShare: setShare, signal: sending.current.signal })).id;
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

/** Waiting edits are given up only when that is said twice: nothing brings them back. */
function GiveUp({ id, count }: { id: number; count: number }): ReactNode {
  const [isAsked, setAsked] = useState(false);
  const them = count === 1 ? 'it' : 'them';
  if (!isAsked)
    return (
      <Button size="xs" variant="subtle" color="gray" onClick={() => setAsked(true)}>
        Give {them} up…
      </Button>
    );
  return (
    <Group gap="xs" wrap="nowrap">
      <Button size="xs" color="hand" variant="outline" onClick={() => outbox.giveUp(id)}>
        Give {them} up for good
      </Button>
      <Button size="xs" variant="default" autoFocus onClick={() => setAsked(false)}>
        Keep {them}
      </Button>
    </Group>
  );
}

/** How many songs’ edits wait for the server, and what it said no to while no view was there to say it. */
function Waiting({ songs }: { songs: readonly ListedSong[] | null }): ReactNode {
  const { waiting, refused, names } = useAppSelector((state) => state.outbox);
  const dispatch = useAppDispatch();
  const nameOf = (id: number): string => songs?.find((song) => song.id === id)?.name ?? names[id] ?? `Song ${id}`;
  const counts = Object.entries(waiting).map(([id, count]) => ({ id: Number(id), count }));
  return (
    <>
      {counts.map(({ id, count }) => (
        <Alert key={id} color="gray" variant="outline" mb="md" role="status" data-testid={`waiting-${id}`}>
          <Group justify="space-between" wrap="nowrap">
            <Text fz="sm">
              {nameOf(id)}: {count} {count === 1 ? 'edit waits' : 'edits wait'} for the server, kept in this browser and
              sent as soon as it can be reached.
            </Text>
            <GiveUp id={id} count={count} />
          </Group>
        </Alert>
      ))}
      {refused.map(({ songId, sentence }, i) => (
        <Alert
          key={`${songId} ${i}`}
          color="hand"
          variant="outline"
          mb="md"
          role="status"
          title={nameOf(songId)}
          withCloseButton
          onClose={() => dispatch(refusalsSeen(songId))}
        >
          {sentence}
        </Alert>
      ))}
    </>
  );
}

type SongsProps = {
  readonly songs: readonly ListedSong[];
  readonly act: (what: () => Promise<Done | null>) => Promise<void>;
};

function Songs({ songs, act }: SongsProps): ReactNode {
  const [renaming, rename] = useState<number | null>(null);
  if (!songs.length) return <Text>There is no song here. Make one of your own stems, or open one that was saved.</Text>;
  return (
    <Table verticalSpacing="sm" highlightOnHover>
      <Table.Thead>
        <Table.Tr>
          <Table.Th>Song</Table.Th>
          <Table.Th ta="right">Length</Table.Th>
          <Table.Th ta="right">Tracks</Table.Th>
          <Table.Th ta="right">Passes</Table.Th>
          <Table.Th ta="right">Last changed</Table.Th>
          <Table.Th w={40} aria-label="What can be done" />
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {songs.map((song) => (
          <Table.Tr key={song.id}>
            <Table.Td className="song-cell">
              {renaming === song.id ? (
                <Renaming song={song} act={act} onEnd={() => rename(null)} />
              ) : (
                <Text
                  component={Link}
                  to={`/songs/${song.id}/ride`}
                  fw={700}
                  className="song-link"
                  truncate
                  title={song.name}
                >
                  {song.name}
                </Text>
              )}
            </Table.Td>
            <Table.Td className="figures">{printClock(song.length).replace(/\.\d+$/, '')}</Table.Td>
            <Table.Td className="figures">{song.tracks}</Table.Td>
            <Table.Td className="figures">{song.passes}</Table.Td>
            <Table.Td className="figures">
              {new Date(song.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            </Table.Td>
            <Table.Td p={0}>
              <SongMenu song={song} act={act} onRename={() => rename(song.id)} />
            </Table.Td>
          </Table.Tr>
        ))}
      </Table.Tbody>
    </Table>
  );
}

function SongMenu({
  song,
  act,
  onRename,
}: Omit<SongsProps, 'songs'> & { song: ListedSong; onRename: () => void }): ReactNode {
  const { id, name } = song;
  const copy = async (): Promise<Done> => {
    const made = await duplicateSong(id);
    return { sentence: `${name} was duplicated.`, undo: () => removeSong(made.id) };
  };
  const remove = async (): Promise<Done> => {
    await removeSong(id);
    return {
      sentence: `${name} was removed. It is kept for a week, and can be put back until you leave this page.`,
      undo: () => restoreSong(id),
    };
  };
  return (
    // The field that Rename opens takes the focus: the menu does not take it back.
    <Menu position="bottom-end" returnFocus={false}>
      <Menu.Target>
        <ActionIcon variant="subtle" color="gray" aria-label={`What can be done with ${name}`}>
          <IconDotsVertical size={16} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={onRename}>Rename</Menu.Item>
        <Menu.Item onClick={() => void act(copy)}>Duplicate</Menu.Item>
        <Menu.Item component="a" href={zipUrl(id)} download>
          Save with its audio (zip)
        </Menu.Item>
        <Menu.Divider role="separator" />
        <Menu.Item onClick={() => void act(remove)}>Remove</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

function Renaming({
  song,
  act,
  onEnd,
}: Omit<SongsProps, 'songs'> & { song: ListedSong; onEnd: () => void }): ReactNode {
  const keep = (typed: string): void => {
    onEnd();
    const name = typed.trim();
    if (!name || name === song.name) return;
    void act(async () => {
      await renameSong(song.id, name);
      return { sentence: `${song.name} is now ${name}.`, undo: () => renameSong(song.id, song.name) };
    });
  };
  return (
    <TextInput
      autoFocus
      size="xs"
      maxLength={200}
      aria-label={`Name of ${song.name}`}
      defaultValue={song.name}
      onFocus={(event) => event.currentTarget.select()}
      onBlur={(event) => keep(event.currentTarget.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') onEnd();
      }}
    />
  );
}
