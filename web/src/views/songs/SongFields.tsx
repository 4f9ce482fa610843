import { useMemo, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Select, Text, TextInput } from '@mantine/core';
import { IconPlus, IconTrash } from '@tabler/icons-react';
import { meterMap, type MeterMap } from '@sure-hand/core/time';
import { NumberField } from '../../parts/NumberField.js';
import { TimeField } from '../../parts/TimeField.js';

const UNITS = ['1', '2', '4', '8', '16', '32'];

/** A section of a song that is being put together; `t` is null while what is typed is no time. */
export type SectionRow = { readonly key: string; readonly t: number | null; readonly name: string };
export type Beat = { readonly bpm: number; readonly beats: number; readonly unit: number };

/** Tempo and meter. */
export function BeatFields({ beat, onBeat }: { beat: Beat; onBeat: (beat: Beat) => void }): ReactNode {
  return (
    <Group gap="xs" wrap="nowrap" align="flex-end">
      <NumberField
        size="sm"
        label="Tempo"
        w={110}
        min={10}
        max={999}
        decimalScale={3}
        suffix=" bpm"
        value={beat.bpm}
        onValue={(bpm) => onBeat({ ...beat, bpm })}
      />
      <NumberField
        size="sm"
        label="Meter"
        aria-label="Beats a bar"
        w={70}
        min={1}
        max={64}
        allowDecimal={false}
        value={beat.beats}
        onValue={(beats) => onBeat({ ...beat, beats: Math.round(beats) })}
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

type SectionProps = {
  readonly beat: Beat;
  readonly sections: readonly SectionRow[];
  readonly onSections: (sections: readonly SectionRow[]) => void;
};

/** Sections of the song: where each begins and what it is called. */
export function SectionFields({ beat, sections, onSections }: SectionProps): ReactNode {
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
      {sections.map((section) => (
        <SectionField
          key={section.key}
          section={section}
          map={map}
          onChange={(changes) => change(section.key, changes)}
          onRemove={() => onSections(sections.filter((one) => one.key !== section.key))}
        />
      ))}
    </div>
  );
}

type FieldProps = {
  readonly section: SectionRow;
  readonly map: MeterMap;
  readonly onChange: (changes: Partial<SectionRow>) => void;
  readonly onRemove: () => void;
};

function SectionField({ section: { t, name }, map, onChange, onRemove }: FieldProps): ReactNode {
  return (
    <Group gap={6} wrap="nowrap" mb={6} align="flex-start">
      <TextInput
        size="xs"
        flex={1}
        aria-label="Name of the section"
        placeholder="Name"
        maxLength={200}
        value={name}
        onChange={(event) => onChange({ name: event.currentTarget.value })}
      />
      <TimeField size="xs" w={90} aria-label="Begins at" map={map} t={t ?? 0} onTime={(at) => onChange({ t: at })} />
      <ActionIcon variant="subtle" color="gray" aria-label={`Remove section ${name}`} onClick={onRemove}>
        <IconTrash size={14} />
      </ActionIcon>
    </Group>
  );
}
