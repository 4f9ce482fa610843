import { useMemo, useState, type ReactNode } from 'react';
import { ActionIcon, Alert, Button, Group, NumberInput, Select, Stack, Text, TextInput, Title } from '@mantine/core';
import { IconPlus, IconTrash } from '@tabler/icons-react';
import { useDropzone } from 'react-dropzone';
import { Link, useNavigate } from 'react-router';
import { meterMap } from '@sure-hand/core/time';
import type { Job } from '@sure-hand/server';
import { JobLine } from '../../parts/JobLine.js';
import { giveUp, useJobs } from '../../open/jobs.js';
import { TimeField } from '../../parts/TimeField.js';
import { makeSong } from '../../song/upload.js';
import { StemList } from './StemList.js';
import { commonRate } from './stems.js';
import { useStems } from './useStems.js';

const RATES = [44100, 48000, 88200, 96000];
const UNITS = ['1', '2', '4', '8', '16', '32'];

type SectionRow = { readonly key: string; readonly t: number | null; readonly name: string };
type Beat = { readonly bpm: number; readonly beats: number; readonly unit: number };

/** A new song of one's own stems: dropped, named, put in order, and given its beat and sections. */
export function NewSong(): ReactNode {
  const { stems, act, drop, remove, staging, keep } = useStems();
  const [name, setName] = useState('');
  const [beat, setBeat] = useState<Beat>({ bpm: 120, beats: 4, unit: 4 });
  const [sections, setSections] = useState<readonly SectionRow[]>([]);
  const [chosenRate, chooseRate] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [jobId, setJobId] = useState<string | null>(null);
  const [made, setMade] = useState<Job | null>(null);
  const navigate = useNavigate();
  const rate = chosenRate ?? commonRate(stems);
  const jobs = useJobs(
    (job) => job.id === jobId,
    (job) => {
      setJobId(null);
      keep(job.state === 'done');
      if (job.state === 'failed') setTrouble(job.sentence);
      if (job.state !== 'done' || job.songId === null) return;
      if (job.sentence) setMade(job);
      else void navigate(`/songs/${job.songId}/ride`);
    },
  );
  const ready = stems.filter((stem) => stem.state === 'ready');
  const onTheWay = stems.filter((stem) => stem.state === 'waiting' || stem.state === 'sending').length;
  const broken = stems.length - ready.length - onTheWay;
  const missing =
    onTheWay > 0
      ? `${onTheWay} ${onTheWay === 1 ? 'stem is' : 'stems are'} still on the way.`
      : ready.length === 0
        ? 'Drop at least one stem.'
        : ready.some((stem) => !stem.name.trim())
          ? 'Every track needs a name.'
          : sections.some((section) => section.t === null || !section.name.trim())
            ? 'Every section needs a name and a place.'
            : null;
  const make = async (): Promise<void> => {
    setTrouble(null);
    try {
      const job = await makeSong(await staging(), {
        name: name.trim() || 'New song',
        sampleRate: rate,
        ...beat,
        sections: sections.map(({ t, name: called }) => ({ t: t!, name: called.trim() })),
        tracks: ready.map((stem) => ({ stem: stem.staged!.id, name: stem.name.trim(), family: stem.family.trim() })),
      });
      keep(true);
      setJobId(job.id);
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  const working = jobs.find((job) => job.id === jobId && job.state === 'working');
  if (made)
    return (
      <main className="songs">
        <Alert color="gray" variant="outline" title={`${made.name} is made`}>
          <Stack align="flex-start" gap="sm">
            {made.sentence}
            <Button component={Link} to={`/songs/${made.songId}/ride`} color="gray" variant="filled" size="xs">
              Open {made.name}
            </Button>
          </Stack>
        </Alert>
      </main>
    );
  return (
    <main className="new-song">
      <Group justify="space-between" mb="md">
        <Title order={1} fz={22}>
          New song
        </Title>
        <Button component={Link} to="/" variant="subtle" color="gray">
          Back to the songs
        </Button>
      </Group>
      <div className="new-song-parts">
        <section className="new-song-stems">
          <DropPlace isEmpty={stems.length === 0} onDrop={drop} />
          {stems.length > 0 && <StemList stems={stems} rate={rate} act={act} remove={remove} />}
        </section>
        <Stack component="aside" gap="sm" className="new-song-words">
          <TextInput
            label="Name"
            placeholder="New song"
            maxLength={200}
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <BeatFields beat={beat} onBeat={setBeat} />
          <Select
            label="Sample rate"
            description={chosenRate === null ? 'That of most stems; the others are resampled.' : undefined}
            data={[...new Set([...RATES, rate])]
              .sort((a, b) => a - b)
              .map((one) => ({ value: String(one), label: `${one / 1000} kHz` }))}
            allowDeselect={false}
            value={String(rate)}
            onChange={(value) => chooseRate(Number(value))}
          />
          <SectionFields beat={beat} sections={sections} onSections={setSections} />
          {trouble && (
            <Text fz="sm" className="trouble" role="alert">
              {trouble}
            </Text>
          )}
          {working ? (
            <JobLine job={working} onCancel={() => giveUp(working)} />
          ) : (
            <Button
              color="gray"
              variant="filled"
              disabled={missing !== null || jobId !== null}
              onClick={() => void make()}
            >
              Make the song of {ready.length} {ready.length === 1 ? 'stem' : 'stems'}
            </Button>
          )}
          <Text fz="xs" c="dimmed">
            {missing ?? (broken ? `${broken} ${broken === 1 ? 'file is' : 'files are'} left out.` : '')}
          </Text>
        </Stack>
      </div>
    </main>
  );
}

/** Where files are dropped; a click chooses them. */
function DropPlace({ isEmpty, onDrop }: { isEmpty: boolean; onDrop: (files: readonly File[]) => void }): ReactNode {
  const { getRootProps, getInputProps, isDragActive } = useDropzone({ onDrop: (files) => onDrop(files) });
  const classes = ['drop-place', isEmpty ? 'is-empty' : '', isDragActive ? 'is-over' : ''].join(' ');
  return (
    <div {...getRootProps({ className: classes, 'aria-label': 'Drop stems here, or choose them' })}>
      <input {...getInputProps({ 'aria-label': 'Stems' } as object)} />
      <Text fz={isEmpty ? 'lg' : 'sm'} fw={700}>
        {isDragActive ? 'Let go to add them' : isEmpty ? 'Drop your stems here' : 'Drop more stems here'}
      </Text>
      {isEmpty && (
        <Text fz="sm" c="dimmed" ta="center">
          WAV files, one a track, all from the song’s start: 16, 24 or 32 bit or float, mono or stereo, any usual rate.
          <br />
          Or click to choose them.
        </Text>
      )}
    </div>
  );
}

function BeatFields({ beat, onBeat }: { beat: Beat; onBeat: (beat: Beat) => void }): ReactNode {
  return (
    <Group gap="xs" wrap="nowrap" align="flex-end">
      <NumberInput
        label="Tempo"
        w={110}
        min={10}
        max={999}
        decimalScale={3}
        suffix=" bpm"
        value={beat.bpm}
        onChange={(value) => Number(value) >= 10 && Number(value) <= 999 && onBeat({ ...beat, bpm: Number(value) })}
      />
      <NumberInput
        label="Meter"
        aria-label="Beats a bar"
        w={70}
        min={1}
        max={64}
        allowDecimal={false}
        value={beat.beats}
        onChange={(value) => Number(value) >= 1 && Number(value) <= 64 && onBeat({ ...beat, beats: Number(value) })}
      />
      <Text pb={7}>/</Text>
      <Select
        aria-label="Note of a beat"
        w={70}
        data={UNITS}
        allowDeselect={false}
        value={String(beat.unit)}
        onChange={(unit) => onBeat({ ...beat, unit: Number(unit) })}
      />
    </Group>
  );
}

function SectionFields({
  beat,
  sections,
  onSections,
}: {
  beat: Beat;
  sections: readonly SectionRow[];
  onSections: (sections: readonly SectionRow[]) => void;
}): ReactNode {
  const map = useMemo(
    () => meterMap([{ t: 0, bpm: beat.bpm }], [{ t: 0, beats: beat.beats, unit: beat.unit }]),
    [beat],
  );
  const change = (key: string, changes: Partial<SectionRow>): void =>
    onSections(sections.map((one) => (one.key === key ? { ...one, ...changes } : one)));
  const add = (): void => {
    const last = sections.at(-1)?.t;
    const t = last === undefined || last === null ? 0 : last + (8 * beat.beats * 240) / beat.unit / beat.bpm;
    onSections([...sections, { key: crypto.randomUUID(), t, name: '' }]);
  };
  return (
    <div>
      <Group justify="space-between" mb={4}>
        <Text fz="sm" fw={500}>
          Sections
        </Text>
        <Button size="compact-xs" variant="default" leftSection={<IconPlus size={12} />} onClick={add}>
          Add a section
        </Button>
      </Group>
      {sections.map(({ key, t, name }) => (
        <Group key={key} gap={6} wrap="nowrap" mb={6} align="flex-start">
          <TextInput
            size="xs"
            flex={1}
            aria-label="Name of the section"
            placeholder="Name"
            maxLength={200}
            value={name}
            onChange={(event) => change(key, { name: event.currentTarget.value })}
          />
          <TimeField
            size="xs"
            w={90}
            aria-label="Begins at"
            map={map}
            t={t ?? 0}
            onTime={(at) => change(key, { t: at })}
          />
          <ActionIcon
            variant="subtle"
            color="gray"
            aria-label={`Remove section ${name}`}
            onClick={() => onSections(sections.filter((one) => one.key !== key))}
          >
            <IconTrash size={14} />
          </ActionIcon>
        </Group>
      ))}
    </div>
  );
}
