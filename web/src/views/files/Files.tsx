import { useCallback, useEffect, useState, type ReactNode } from 'react';
import { ActionIcon, Anchor, Button, Group, Table, Text, Title } from '@mantine/core';
import { IconDownload, IconTrash } from '@tabler/icons-react';
import dayjs from 'dayjs';
import { printClock } from '@sure-hand/core/time';
import type { ListedBounce } from '@sure-hand/server';
import { JobLine } from '../../parts/JobLine.js';
import { giveUp, useJobs } from '../../open/jobs.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppSelector } from '../../store/store.js';
import { Tip } from '../../parts/Tip.js';
import { bounceUrl, deleteBounce, documentUrl, listBounces, zipUrl } from '../../song/songApi.js';
import { BounceForm } from './BounceForm.js';

const minus = (value: number, digits = 1): string => (value <= -144 ? '−∞' : value.toFixed(digits).replace('-', '−'));
const size = (bytes: number): string => `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;

/** What is measured of a bounce, by its unit. */
const MEASURED = [
  ['LUFS', 'Integrated loudness'],
  ['LU', 'Loudness range'],
  ['dBTP', 'True peak'],
] as const;

/** What comes out of a song: bounces, made and being made, and the song itself to be taken elsewhere. */
export function Files(): ReactNode {
  const { id } = useOpenSong();
  const [bounces, setBounces] = useState<readonly ListedBounce[]>([]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const look = useCallback(() => listBounces(id).then(setBounces, (error: Error) => setTrouble(error.message)), [id]);
  useEffect(() => void look(), [look]);
  const jobs = useJobs(
    (job) => job.kind === 'bounce' && job.songId === id,
    (job) => {
      if (job.state === 'failed') setTrouble(job.sentence);
      void look();
    },
  );
  const working = jobs.filter((job) => job.state === 'working');
  const remove = (bounce: ListedBounce): void =>
    void deleteBounce(id, bounce.id).then(look, (error: Error) => setTrouble(error.message));
  return (
    <main className="page">
      <div className="files-parts">
        <section className="files-left">
          <Title order={2} fz="lg" mb="sm">
            Bounce
          </Title>
          <BounceForm onTrouble={setTrouble} />
          <SongItself id={id} />
        </section>
        <section className="files-made">
          <Title order={2} fz="lg" mb="sm">
            Made
          </Title>
          {trouble && (
            <Group gap="xs" wrap="nowrap" mb="sm" role="alert">
              <Text fz="sm" className="trouble">
                {trouble}
              </Text>
              <Button size="compact-xs" variant="subtle" color="gray" onClick={() => setTrouble(null)}>
                Seen
              </Button>
            </Group>
          )}
          {working.map((job) => (
            <JobLine key={job.id} job={job} onCancel={() => giveUp(job)} />
          ))}
          {bounces.length ? (
            <Made id={id} bounces={bounces} onRemove={remove} />
          ) : (
            !working.length && (
              <Text c="dimmed" fz="sm">
                Nothing is bounced yet. What you bounce is listed here with its loudness and true peak.
              </Text>
            )
          )}
        </section>
      </div>
    </main>
  );
}

/** The song to be taken elsewhere. */
function SongItself({ id }: { id: number }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  return (
    <>
      <Title order={2} fz="lg" mt="xl" mb="sm">
        The song itself
      </Title>
      <Text fz="sm" c="dimmed" mb="sm">
        {song.channels.filter((channel) => channel.kind === 'track').length} tracks, as they stand now. The zip opens in
        Sure Hand on any machine; the document is open JSON.
      </Text>
      <Group gap="xs">
        <Button component="a" href={zipUrl(id)} download variant="default" size="xs">
          Save with its audio (zip)
        </Button>
        <Button component="a" href={documentUrl(id)} download variant="default" size="xs">
          Save the document
        </Button>
      </Group>
    </>
  );
}

type RemovesBounce = { readonly id: number; readonly onRemove: (bounce: ListedBounce) => void };

/** What was bounced, with its loudness. */
function Made({ id, bounces, onRemove }: RemovesBounce & { readonly bounces: readonly ListedBounce[] }): ReactNode {
  return (
    <Table verticalSpacing={6} highlightOnHover className="made">
      <Table.Thead>
        <Table.Tr>
          <Table.Th>File</Table.Th>
          <Table.Th ta="right">Length</Table.Th>
          {MEASURED.map(([unit, what]) => (
            <Table.Th key={unit} ta="right">
              <Tip label={`${what}, ${unit}`}>
                <span>{unit}</span>
              </Tip>
            </Table.Th>
          ))}
          <Table.Th ta="right">Made</Table.Th>
          <Table.Th w={64} aria-label="Download or delete" />
        </Table.Tr>
      </Table.Thead>
      <Table.Tbody>
        {bounces.map((bounce) => (
          <MadeRow key={bounce.id} id={id} bounce={bounce} onRemove={onRemove} />
        ))}
      </Table.Tbody>
    </Table>
  );
}

function MadeRow({ id, bounce, onRemove }: RemovesBounce & { readonly bounce: ListedBounce }): ReactNode {
  return (
    <Table.Tr>
      <Table.Td className="made-name">
        <Anchor
          href={bounceUrl(id, bounce.id)}
          download
          fz="sm"
          truncate
          display="block"
          c="inherit"
          title={bounce.file}
        >
          {bounce.file}
        </Anchor>
        <Text fz="xs" c="dimmed">
          {bounce.bits === '32f' ? '32 bit float' : `${bounce.bits} bit`} · {size(bounce.bytes)}
        </Text>
      </Table.Td>
      <Table.Td className="figures">{printClock(bounce.seconds).replace(/\.\d+$/, '')}</Table.Td>
      <Table.Td className="figures">{minus(bounce.loudness.integrated)}</Table.Td>
      <Table.Td className="figures">{bounce.loudness.range.toFixed(1)}</Table.Td>
      <Table.Td className={bounce.loudness.truePeak > 0 ? 'figures is-over' : 'figures'}>
        {minus(bounce.loudness.truePeak)}
      </Table.Td>
      <Table.Td className="figures">{dayjs(bounce.at).format('D MMM, HH:mm')}</Table.Td>
      <Table.Td p={0}>
        <BounceActs id={id} bounce={bounce} onRemove={onRemove} />
      </Table.Td>
    </Table.Tr>
  );
}

function BounceActs({ id, bounce, onRemove }: RemovesBounce & { readonly bounce: ListedBounce }): ReactNode {
  return (
    <Group gap={2} wrap="nowrap">
      <Tip label="Download">
        <ActionIcon
          component="a"
          href={bounceUrl(id, bounce.id)}
          download
          variant="subtle"
          color="gray"
          aria-label={`Download ${bounce.file}`}
        >
          <IconDownload size={15} />
        </ActionIcon>
      </Tip>
      <Tip label="Delete the file; it can be bounced again">
        <ActionIcon variant="subtle" color="gray" aria-label={`Delete ${bounce.file}`} onClick={() => onRemove(bounce)}>
          <IconTrash size={15} />
        </ActionIcon>
      </Tip>
    </Group>
  );
}
