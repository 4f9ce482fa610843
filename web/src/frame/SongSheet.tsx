import { useMemo, useState, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Select, Stack, Table, Text, TextInput } from '@mantine/core';
import { IconTrash } from '@tabler/icons-react';
import { meterMap, snap, type MeterMap, type MeterMark, type TempoMark } from '@sure-hand/core/time';
import type { MarkEdit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { shortBars } from '../hands/reachWords.js';
import { KeptNumber } from '../parts/KeptNumber.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';
import { Tip } from '../parts/Tip.js';
import { TimeField } from '../parts/TimeField.js';

const UNITS = ['1', '2', '4', '8', '16', '32'];
/** Quarter notes a minute that a tempo can be. */
const TEMPO = { min: 10, max: 999 } as const;
const MOST_BEATS = 64;
const DEFAULT_TEMPO: TempoMark = { t: 0, bpm: 120 };
const DEFAULT_METER: MeterMark = { t: 0, beats: 4, unit: 4 };

/** The marks of a song as they are meant where it has none. */
const orDefault = <T,>(marks: readonly T[], fallback: T): readonly T[] => (marks.length ? marks : [fallback]);

/** The song's name, its tempo and meter and where they change: kept as they are typed, each an undo step. */
export function SongSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const rename = (name: string): void => {
    if (name.trim() && name.trim() !== song.name) control.makeEdit({ kind: 'title', name: name.trim() });
  };
  return (
    <Sheet name="Song" onClose={onClose} className="sheet-song">
      <Stack gap="sm">
        <TextInput
          key={song.name}
          label="Name"
          size="xs"
          autoFocus
          maxLength={200}
          defaultValue={song.name}
          onBlur={(event) => rename(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && rename(event.currentTarget.value)}
        />
        <TempoMarks song={song} />
        <MeterMarks song={song} />
        <Text fz="xs" c="dimmed">
          Curves, clips, sections and notes keep their place in seconds when the tempo changes.
        </Text>
      </Stack>
    </Sheet>
  );
}

function TempoMarks({ song }: { song: Song }): ReactNode {
  return (
    <Marks
      title="Tempo, quarter notes a minute"
      song={song}
      marks={orDefault(song.tempo, DEFAULT_TEMPO)}
      edit={(remove, add) => ({ kind: 'mark', list: 'tempo', remove: song.tempo.length ? remove : null, add })}
      field={(mark, keep) => (
        <KeptNumber
          w={90}
          aria-label="Tempo"
          min={TEMPO.min}
          max={TEMPO.max}
          decimalScale={3}
          value={mark.bpm}
          onKeep={(bpm) => keep({ ...mark, bpm })}
        />
      )}
    />
  );
}

function MeterMarks({ song }: { song: Song }): ReactNode {
  return (
    <Marks
      title="Meter"
      song={song}
      marks={orDefault(song.meter, DEFAULT_METER)}
      edit={(remove, add) => ({ kind: 'mark', list: 'meter', remove: song.meter.length ? remove : null, add })}
      field={(mark, keep) => (
        <Group gap={4} wrap="nowrap">
          <KeptNumber
            w={64}
            aria-label="Beats a bar"
            min={1}
            max={MOST_BEATS}
            allowDecimal={false}
            value={mark.beats}
            onKeep={(beats) => keep({ ...mark, beats: Math.round(beats) })}
          />
          <Text>/</Text>
          <Select
            size="xs"
            w={64}
            aria-label="Note of a beat"
            data={UNITS}
            allowDeselect={false}
            value={String(mark.unit)}
            onChange={(unit) => keep({ ...mark, unit: Number(unit) })}
          />
        </Group>
      )}
    />
  );
}

type MarksProps<T> = {
  readonly title: string;
  readonly song: Song;
  readonly marks: readonly T[];
  readonly edit: (remove: T | null, add: T | null) => MarkEdit;
  readonly field: (mark: T, keep: (mark: T) => void) => ReactNode;
};

/** Puts marks of one kind into the song; a sentence where that can't be. */
function useMarks<T extends { readonly t: number }>({
  song,
  marks,
  edit,
}: MarksProps<T>): {
  readonly map: MeterMap;
  readonly trouble: string | null;
  readonly put: (remove: T | null, add: T | null) => void;
  readonly addHere: () => void;
} {
  const { control } = useOpenSong();
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [trouble, setTrouble] = useState<string | null>(null);
  const put = (remove: T | null, add: T | null): void => {
    setTrouble(null);
    if (add && remove && JSON.stringify(add) === JSON.stringify(remove)) return;
    if (add && marks.some((one) => one !== remove && Math.abs(one.t - add.t) < 1e-6))
      return setTrouble(`There is one at ${shortBars(map, add.t)} already.`);
    control.makeEdit(edit(remove, add));
  };
  const addHere = (): void => {
    const t = snap({ map, sections: [], format: 'bars' }, 'bar', control.position);
    const before = [...marks].reverse().find((one) => one.t <= t) ?? marks[0]!;
    put(null, { ...before, t });
  };
  return { map, trouble, put, addHere };
}

/** Marks of one kind: where each stands and what it says; a new one is put at the bar nearest to the line. */
function Marks<T extends { readonly t: number }>(props: MarksProps<T>): ReactNode {
  const { title, song, marks, field } = props;
  const { map, trouble, put, addHere } = useMarks(props);
  return (
    <div>
      <Group justify="space-between" wrap="nowrap">
        <Text fz="xs" fw={700}>
          {title}
        </Text>
        <Button size="compact-xs" variant="default" onClick={addHere}>
          Change at the line
        </Button>
      </Group>
      <Table withRowBorders={false} verticalSpacing={3}>
        <Table.Tbody>
          {marks.map((mark) => (
            <Table.Tr key={mark.t}>
              <Table.Td p={0}>
                {mark.t === 0 ? (
                  <Text fz="xs" c="dimmed">
                    from the start
                  </Text>
                ) : (
                  <MovableTime t={mark.t} song={song} onTime={(t) => put(mark, { ...mark, t })} />
                )}
              </Table.Td>
              <Table.Td>{field(mark, (next) => put(mark, next))}</Table.Td>
              <Table.Td w={28} p={0}>
                {mark.t > 0 && (
                  <RemoveButton what={`${title} at ${shortBars(map, mark.t)}`} onRemove={() => put(mark, null)} />
                )}
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {trouble && (
        <Text fz="xs" className="trouble" role="alert">
          {trouble}
        </Text>
      )}
    </div>
  );
}

function RemoveButton({ what, onRemove }: { what: string; onRemove: () => void }): ReactNode {
  return (
    <Tip label="Remove">
      <ActionIcon variant="subtle" color="gray" aria-label={`Remove ${what}`} onClick={onRemove}>
        <IconTrash size={14} />
      </ActionIcon>
    </Tip>
  );
}

function MovableTime({ t, song, onTime }: { t: number; song: Song; onTime: (t: number) => void }): ReactNode {
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [typed, setTyped] = useState<number | null>(t);
  const keep = (): void => {
    if (typed !== null && typed !== t) onTime(typed);
  };
  return (
    <TimeField
      size="xs"
      w={110}
      aria-label="At"
      map={map}
      t={t}
      onTime={setTyped}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  );
}
