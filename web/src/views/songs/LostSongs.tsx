import { useCallback, useEffect, useState, type ReactNode } from 'react';
import { Button, Group, Stack, Text, Title } from '@mantine/core';
import type { LostSong } from '@sure-hand/server';
import { followJob, jobBegun } from '../../open/jobs.js';
import { bringBackLost, deleteLost, listLost } from '../../song/songApi.js';
import type { Done } from './SongTable.js';

type LostProps = {
  /** Something of the list changed: what was lost is looked for again. */
  readonly songs: unknown;
  readonly act: (what: () => Promise<Done | null>) => Promise<void>;
};

const sizeOf = ({ files, bytes }: LostSong): string =>
  `${files} audio ${files === 1 ? 'file' : 'files'}, ${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;

/** What lies in the data folder and belongs to no song in the database: offered to be brought back. */
export function LostSongs({ songs, act }: LostProps): ReactNode {
  const [lost, setLost] = useState<readonly LostSong[]>([]);
  const look = useCallback(
    () =>
      listLost().then(setLost, () => {
        // The list of songs says that the server is away.
      }),
    [],
  );
  useEffect(() => void look(), [look, songs]);
  if (!lost.length) return null;
  return (
    <section className="lost-songs" aria-labelledby="lost-songs">
      <Title order={2} fz={18} id="lost-songs">
        Found without a song
      </Title>
      <Text fz="sm" c="dimmed" mb="xs">
        These lie in the data folder, and the database does not know them, as where it was lost or an older one was put
        back. Nothing of them was deleted.
      </Text>
      <Stack gap={0}>
        {lost.map((one) => (
          <LostRow key={one.folder} lost={one} act={(what) => act(what).then(look)} />
        ))}
      </Stack>
    </section>
  );
}

function LostRow({ lost, act }: { lost: LostSong; act: LostProps['act'] }): ReactNode {
  const [isAsked, ask] = useState(false);
  const [isBusy, setBusy] = useState(false);
  const name = lost.name ?? 'Audio without a song document';
  const bringBack = async (): Promise<Done> => {
    setBusy(true);
    try {
      const job = jobBegun(await bringBackLost(lost.folder));
      const done = await followJob(job, () => undefined, new AbortController().signal);
      return { sentence: done.sentence ?? `${name} is back.`, undo: null };
    } finally {
      setBusy(false);
    }
  };
  const forget = async (): Promise<Done> => {
    await deleteLost(lost.folder);
    return { sentence: `${name} (${sizeOf(lost)}) was deleted for good.`, undo: null };
  };
  return (
    <Group justify="space-between" wrap="nowrap" className="lost-row">
      <div className="lost-words">
        <Text fw={700} truncate title={name}>
          {name}
        </Text>
        <Text fz="xs" c="dimmed" truncate title={`lost/${lost.folder}`}>
          {sizeOf(lost)} · lost/{lost.folder}
        </Text>
      </div>
      {isAsked ? (
        <Group gap="xs" wrap="nowrap">
          <Text fz="sm">No undo for this.</Text>
          <Button size="xs" color="hand" onClick={() => void act(forget)}>
            Delete {lost.files === 1 ? 'the file' : `${lost.files} files`}
          </Button>
          <Button size="xs" variant="default" autoFocus onClick={() => ask(false)}>
            Keep
          </Button>
        </Group>
      ) : (
        <Group gap="xs" wrap="nowrap">
          <Button size="xs" variant="default" loading={isBusy} onClick={() => void act(bringBack)}>
            {lost.name === null ? 'Make a song of it' : 'Bring back'}
          </Button>
          <Button size="xs" variant="subtle" color="gray" disabled={isBusy} onClick={() => ask(true)}>
            Delete…
          </Button>
        </Group>
      )}
    </Group>
  );
}
