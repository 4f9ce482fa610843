import { useState, type ReactNode } from 'react';
import { Button, Chip, Group, MultiSelect, SegmentedControl, Switch, Text, TextInput } from '@mantine/core';
import { whyNotMade } from '@sure-hand/core/edits';
import { channelOf, type ControlKind, type Gang, type Song } from '@sure-hand/core/song';
import { channelsOf, newGang } from '../hands/families.js';
import { listed } from '../hands/familyWords.js';
import { KIND_NAMES } from '../hands/laneFilter.js';
import { Sheet } from '../parts/Sheet.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething, lanesChosen } from '../store/viewSlice.js';

/** Kinds of control that a gang can link. */
const GANG_KINDS: readonly ControlKind[] = ['level', 'pan', 'mute', 'sends'];

/** Gangs: one is made of the channels that are chosen; each is changed where it stands, and dissolved. */
export function GangSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  return (
    <Sheet name="Gangs: channels that one hand moves together" onClose={onClose} className="sheet-family">
      <NewGang song={song} />
      <div className="family-list">
        {song.gangs.map((gang) => (
          <OneGang key={gang.key} song={song} gang={gang} />
        ))}
      </div>
      {!song.gangs.length && <Text fz="sm">The song has no gang yet.</Text>}
    </Sheet>
  );
}

function NewGang({ song }: { song: Song }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const { chosen } = useViewParts('chosen');
  const [name, setName] = useState('');
  const [wrong, setWrong] = useState<string | null>(null);
  const channels = channelsOf(song, chosen);
  const names = listed(channels.map((key) => channelOf(song, key)!.name));
  const make = (): void => {
    const gang = newGang(song, name.trim() || `Gang ${song.gangs.length + 1}`, channels);
    const edit = { kind: 'gang', remove: null, add: gang } as const;
    const sentence = gang.kinds.length
      ? whyNotMade(song, edit)
      : `All kinds of ${names} are in gangs already; take them out of those first.`;
    setWrong(sentence);
    if (sentence) return;
    control.makeEdit(edit);
    dispatch(lanesChosen([]));
    dispatch(didSomething(`Gang ${gang.name}: ${KIND_NAMES[gang.kinds[0]!].toLowerCase()} of ${names}.`));
    setName('');
  };
  if (channels.length < 2)
    return (
      <Text fz="sm" c="dimmed">
        For a new one choose two channels or more: Ctrl+click on their names, here or in Ride.
      </Text>
    );
  return (
    <>
      <Group gap="xs" align="flex-end" wrap="nowrap">
        <TextInput
          size="xs"
          label={`A gang of ${names}`}
          placeholder={`Gang ${song.gangs.length + 1}`}
          value={name}
          maxLength={200}
          autoFocus
          onChange={(event) => setName(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && make()}
        />
        <Button size="xs" onClick={make}>
          Gang them
        </Button>
      </Group>
      {wrong && (
        <Text fz="sm" role="alert" className="trouble">
          {wrong}
        </Text>
      )}
    </>
  );
}

function OneGang({ song, gang }: { song: Song; gang: Gang }): ReactNode {
  const { control } = useOpenSong();
  const [wrong, setWrong] = useState<string | null>(null);
  const change = (changes: Partial<Gang> | null): void => {
    const edit = { kind: 'gang', remove: gang, add: changes && { ...gang, ...changes } } as const;
    const sentence = whyNotMade(song, edit);
    setWrong(sentence);
    if (!sentence) control.makeEdit(edit);
  };
  const rename = (name: string): void => {
    if (name.trim() && name.trim() !== gang.name) change({ name: name.trim() });
  };
  return (
    <section className="family-one" aria-label={`Gang ${gang.name}`}>
      <Group gap="xs" wrap="nowrap">
        <TextInput
          key={gang.name}
          size="xs"
          w={150}
          aria-label={`Name of the gang ${gang.name}`}
          defaultValue={gang.name}
          maxLength={200}
          onBlur={(event) => rename(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && rename(event.currentTarget.value)}
        />
        <Chip.Group multiple value={[...gang.kinds]} onChange={(kinds) => change({ kinds: kinds as ControlKind[] })}>
          {GANG_KINDS.map((kind) => (
            <Chip key={kind} size="xs" radius="sm" value={kind}>
              {KIND_NAMES[kind]}
            </Chip>
          ))}
        </Chip.Group>
        <Button size="compact-xs" variant="default" onClick={() => change(null)}>
          Dissolve
        </Button>
      </Group>
      <MultiSelect
        mt={6}
        size="xs"
        searchable
        aria-label={`Channels of ${gang.name}`}
        data={song.channels.map(({ key, name }) => ({ value: key, label: name }))}
        value={[...gang.channels]}
        onChange={(channels) => change({ channels })}
      />
      <HowTogether gang={gang} change={change} />
      {wrong && (
        <Text fz="sm" role="alert" className="trouble" mt={4}>
          {wrong}
        </Text>
      )}
    </section>
  );
}

/** How pans go together, and whether modes and trim do. */
function HowTogether({ gang, change }: { gang: Gang; change: (changes: Partial<Gang>) => void }): ReactNode {
  return (
    <Group gap="md" mt={6}>
      <SegmentedControl
        size="xs"
        aria-label={`Pans of ${gang.name}`}
        disabled={!gang.kinds.includes('pan')}
        value={gang.pan}
        onChange={(pan) => change({ pan: pan as Gang['pan'] })}
        data={[
          { value: 'same', label: 'Pans the same way' },
          { value: 'mirror', label: 'Pans mirrored' },
        ]}
      />
      <Switch
        size="xs"
        label="Modes and trim too"
        checked={gang.modes}
        onChange={(event) => change({ modes: event.currentTarget.checked })}
      />
    </Group>
  );
}
