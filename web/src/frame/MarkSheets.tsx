import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, Select, TextInput, Textarea } from '@mantine/core';
import type { Note, Section } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { shortBars } from '../hands/reachWords.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';
import { TimeField } from '../parts/TimeField.js';

/** Where a mark stands: what it was, or where a new one is to be. */
type Standing = { readonly t: number; readonly onClose: () => void };

function Buttons({
  isNew,
  what,
  onKeep,
  onRemove,
}: {
  isNew: boolean;
  what: string;
  onKeep: (() => void) | null;
  onRemove: () => void;
}): ReactNode {
  return (
    <Group gap="xs" wrap="nowrap">
      <Button size="xs" color="gray" variant="filled" disabled={!onKeep} onClick={() => onKeep?.()}>
        {isNew ? `Add ${what}` : 'Keep'}
      </Button>
      {!isNew && (
        <Button size="xs" variant="default" onClick={onRemove}>
          Remove {what}
        </Button>
      )}
    </Group>
  );
}

/** A section's name and beginning. */
export function SectionSheet({ mark, t, onClose }: Standing & { readonly mark: Section | null }): ReactNode {
  const { control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [name, setName] = useState(mark?.name ?? '');
  const [at, setAt] = useState<number | null>(t);
  const add = at === null || !name.trim() ? null : { t: at, name: name.trim() };
  const keep =
    add &&
    (() => {
      if (add.name !== mark?.name || add.t !== mark.t)
        control.makeEdit({ kind: 'mark', list: 'sections', remove: mark, add });
      onClose();
    });
  const remove = (): void => {
    control.makeEdit({ kind: 'mark', list: 'sections', remove: mark, add: null });
    onClose();
  };
  return (
    <Sheet
      name={mark ? `Section ${mark.name}` : `New section at ${shortBars(map, t)}`}
      onClose={onClose}
      onEnter={() => keep?.()}
    >
      <Group gap="xs" align="flex-start" wrap="nowrap">
        <TextInput
          data-autofocus
          autoFocus
          size="xs"
          w={220}
          aria-label="Name of the section"
          placeholder="Name"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TimeField size="xs" w={150} aria-label="Begins at" map={map} t={t} onTime={setAt} />
        <Buttons isNew={!mark} what="section" onKeep={keep} onRemove={remove} />
      </Group>
    </Sheet>
  );
}

function NoteText({ value, onChange }: { value: string; onChange: (text: string) => void }): ReactNode {
  return (
    <Textarea
      autoFocus
      size="xs"
      w={320}
      autosize
      minRows={2}
      maxRows={5}
      aria-label="Text of the note"
      placeholder="What is to be done here"
      maxLength={4000}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
    />
  );
}

/** A note's text, its place, and the channel it is about. */
export function NoteSheet({
  mark,
  t,
  channel: about,
  onClose,
}: Standing & { readonly mark: Note | null; readonly channel: string | null }): ReactNode {
  const { control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [text, setText] = useState(mark?.text ?? '');
  const [at, setAt] = useState<number | null>(t);
  const [channel, setChannel] = useState(mark ? (mark.channel ?? null) : about);
  const add: Note | null =
    at === null || !text.trim() ? null : { ...mark, t: at, text: text.trim(), ...(channel ? { channel } : {}) };
  const keep =
    add &&
    (() => {
      const { channel: _before, ...bare } = add;
      const note = channel ? add : bare;
      control.makeEdit({ kind: 'mark', list: 'notes', remove: mark, add: note });
      onClose();
    });
  const remove = (): void => {
    control.makeEdit({ kind: 'mark', list: 'notes', remove: mark, add: null });
    onClose();
  };
  return (
    <Sheet
      name={mark ? `Note at ${shortBars(map, mark.t)}` : `New note at ${shortBars(map, t)}`}
      onClose={onClose}
      onEnter={() => keep?.()}
    >
      <Group gap="xs" align="flex-start" wrap="nowrap">
        <NoteText value={text} onChange={setText} />
        <div className="sheet-column">
          <Group gap="xs" wrap="nowrap" align="flex-start">
            <TimeField size="xs" w={130} aria-label="At" map={map} t={t} onTime={setAt} />
            <Select
              size="xs"
              w={170}
              aria-label="About"
              placeholder="About no channel"
              clearable
              searchable
              data={song.channels.map(({ key, name }) => ({ value: key, label: name }))}
              value={channel}
              onChange={setChannel}
            />
          </Group>
          <Buttons isNew={!mark} what="note" onKeep={keep} onRemove={remove} />
        </div>
      </Group>
    </Sheet>
  );
}
