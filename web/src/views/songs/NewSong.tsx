import { useState, type ReactNode } from 'react';
import { Alert, Button, Group, Select, Stack, Text, TextInput, Title } from '@mantine/core';
import { useDropzone } from 'react-dropzone';
import { Link, useNavigate } from 'react-router';
import type { Job } from '@sure-hand/server';
import { giveUp, jobBegun, useJobs } from '../../open/jobs.js';
import { JobLine } from '../../parts/JobLine.js';
import { makeSong } from '../../song/upload.js';
import { BeatFields, SectionFields, type Beat, type SectionRow } from './SongFields.js';
import { StemList } from './StemList.js';
import { commonRate, type Stem } from './stems.js';
import { useStems } from './useStems.js';

const RATES = [44100, 48000, 88200, 96000];

/** What a new song is to be, besides its stems. `chosenRate`: null for that of most stems. */
type Words = {
  readonly name: string;
  readonly beat: Beat;
  readonly sections: readonly SectionRow[];
  readonly chosenRate: number | null;
};
const NO_WORDS: Words = { name: '', beat: { bpm: 120, beats: 4, unit: 4 }, sections: [], chosenRate: null };

/** Why the song can't be made yet, in a sentence; null where it can. */
function missingOf(stems: readonly Stem[], { sections }: Words): string | null {
  const onTheWay = stems.filter((stem) => stem.state === 'waiting' || stem.state === 'sending').length;
  const ready = stems.filter((stem) => stem.state === 'ready');
  if (onTheWay > 0) return `${onTheWay} ${onTheWay === 1 ? 'stem is' : 'stems are'} still on the way.`;
  if (ready.length === 0) return 'Drop at least one stem.';
  if (ready.some((stem) => !stem.name.trim())) return 'Every track needs a name.';
  const isWhole = sections.every((section) => section.t !== null && section.name.trim());
  return isWhole ? null : 'Every section needs a name and a place.';
}

/** The song that is being made of stems: begun, given up, made, or failed with a sentence. */
function useMaking({ stems, staging, keep }: ReturnType<typeof useStems>): {
  readonly job: Job | null;
  readonly made: Job | null;
  readonly trouble: string | null;
  readonly isBegun: boolean;
  readonly make: (words: Words) => Promise<void>;
} {
  const [trouble, setTrouble] = useState<string | null>(null);
  const [jobId, setJobId] = useState<string | null>(null);
  const [made, setMade] = useState<Job | null>(null);
  const navigate = useNavigate();
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
  const make = async ({ name, beat, sections, chosenRate }: Words): Promise<void> => {
    setTrouble(null);
    const ready = stems.filter((stem) => stem.state === 'ready');
    try {
      const job = await makeSong(await staging(), {
        name: name.trim() || 'New song',
        sampleRate: chosenRate ?? commonRate(stems),
        ...beat,
        sections: sections.map(({ t, name: called }) => ({ t: t!, name: called.trim() })),
        tracks: ready.map((stem) => ({ stem: stem.staged!.id, name: stem.name.trim(), family: stem.family.trim() })),
      });
      keep(true);
      setJobId(jobBegun(job).id);
    } catch (error) {
      setTrouble((error as Error).message);
    }
  };
  const job = jobs.find((one) => one.id === jobId && one.state === 'working') ?? null;
  return { job, made, trouble, isBegun: jobId !== null, make };
}

/** A new song of one's own stems: dropped, named, put in order, and given its beat and sections. */
export function NewSong(): ReactNode {
  const staged = useStems();
  const { stems, act, drop, remove } = staged;
  const making = useMaking(staged);
  const [words, setWords] = useState(NO_WORDS);
  const rate = words.chosenRate ?? commonRate(stems);
  if (making.made) return <MadeSong job={making.made} />;
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
          <WordFields
            words={words}
            rate={rate}
            onWords={(changes) => setWords((before) => ({ ...before, ...changes }))}
          />
          <MakeIt stems={stems} words={words} making={making} />
        </Stack>
      </div>
    </main>
  );
}

type WordProps = {
  readonly words: Words;
  readonly rate: number;
  readonly onWords: (changes: Partial<Words>) => void;
};

/** Name, beat, sample rate and sections. */
function WordFields({ words: { name, beat, sections, chosenRate }, rate, onWords }: WordProps): ReactNode {
  return (
    <>
      <TextInput
        label="Name"
        placeholder="New song"
        maxLength={200}
        value={name}
        onChange={(event) => onWords({ name: event.currentTarget.value })}
      />
      <BeatFields beat={beat} onBeat={(to) => onWords({ beat: to })} />
      <Select
        label="Sample rate"
        description={chosenRate === null ? 'That of most stems; the others are resampled.' : undefined}
        data={[...new Set([...RATES, rate])]
          .sort((a, b) => a - b)
          .map((one) => ({ value: String(one), label: `${one / 1000} kHz` }))}
        allowDeselect={false}
        value={String(rate)}
        onChange={(value) => onWords({ chosenRate: Number(value) })}
      />
      <SectionFields beat={beat} sections={sections} onSections={(to) => onWords({ sections: to })} />
    </>
  );
}

type MakeProps = {
  readonly stems: readonly Stem[];
  readonly words: Words;
  readonly making: ReturnType<typeof useMaking>;
};

/** The button that makes the song, or how far it is; and why not, or what is left out. */
function MakeIt({ stems, words, making: { job, trouble, isBegun, make } }: MakeProps): ReactNode {
  const ready = stems.filter((stem) => stem.state === 'ready').length;
  const broken = stems.filter((stem) => stem.state === 'broken').length;
  const missing = missingOf(stems, words);
  return (
    <>
      {trouble && (
        <Text fz="sm" className="trouble" role="alert">
          {trouble}
        </Text>
      )}
      {job ? (
        <JobLine job={job} onCancel={() => giveUp(job)} />
      ) : (
        <Button color="gray" variant="filled" disabled={missing !== null || isBegun} onClick={() => void make(words)}>
          Make the song of {ready} {ready === 1 ? 'stem' : 'stems'}
        </Button>
      )}
      <Text fz="xs" c="dimmed">
        {missing ?? (broken ? `${broken} ${broken === 1 ? 'file is' : 'files are'} left out.` : '')}
      </Text>
    </>
  );
}

/** A song that was made, but not quite of what was asked: the sentence is read before it is opened. */
function MadeSong({ job: { name, sentence, songId } }: { job: Job }): ReactNode {
  return (
    <main className="songs">
      <Alert color="gray" variant="outline" title={`${name} is made`}>
        <Stack align="flex-start" gap="sm">
          {sentence}
          <Button component={Link} to={`/songs/${songId}/ride`} color="gray" variant="filled" size="xs">
            Open {name}
          </Button>
        </Stack>
      </Alert>
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
