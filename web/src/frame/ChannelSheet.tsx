import { useState, type ReactNode } from 'react';
import { ActionIcon, Button, Group, SegmentedControl, Select, Text, TextInput } from '@mantine/core';
import { IconTrash } from '@tabler/icons-react';
import type { Edit } from '@sure-hand/core/edits';
import {
  channelNamed,
  channelOf,
  controlId,
  outputOf,
  sendWithDefaults,
  type Channel,
  type Send,
  type Song,
} from '@sure-hand/core/song';
import { goesWith, newChannel } from '../hands/families.js';
import { Sheet } from '../parts/Sheet.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething, takenInHand } from '../store/viewSlice.js';
import { MoreStems } from './MoreStems.js';
import { useTry } from './useTry.js';

/** Channels and buses: named, given outputs and sends, added and taken out, while the song goes on. */
export function ChannelSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand } = useViewParts('inHand');
  const dispatch = useAppDispatch();
  const channel = (inHand ? channelOf(song, channelNamed(inHand)) : undefined) ?? song.channels[0]!;
  return (
    <Sheet name="Channels, buses, sends" onClose={onClose} className="sheet-family">
      <Select
        size="xs"
        searchable
        aria-label="Which channel"
        allowDeselect={false}
        value={channel.key}
        onChange={(key) => key && dispatch(takenInHand(controlId(key, 'level')))}
        data={song.channels.map(({ key, name }) => ({ value: key, label: name }))}
      />
      <OneChannel key={channel.key} song={song} channel={channel} />
      <NewChannels song={song} />
    </Sheet>
  );
}

function OneChannel({ song, channel }: { song: Song; channel: Channel }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const [wrong, make] = useTry();
  const { key, name, family, kind } = channel;
  const describe = (changes: { name?: string; family?: string }): void => {
    control.makeEdit({ kind: 'describe', channel: key, changes });
  };
  const remove = (): void => {
    if (make({ kind: 'removeChannel', channel: key }))
      dispatch(didSomething(`${name} taken out, with all that was its own. Undo brings it back.`));
  };
  return (
    <>
      <Group gap="xs" mt={8} align="flex-end" wrap="nowrap">
        <Kept label="Name" value={name} onKeep={(to) => to && describe({ name: to })} />
        <Kept label="Family" value={family} onKeep={(to) => describe({ family: to })} />
        {(kind === 'track' || kind === 'bus') && (
          <Select
            size="xs"
            w={130}
            label="Goes out to"
            allowDeselect={false}
            value={outputOf(song, channel)}
            onChange={(to) => to && make({ kind: 'output', channel: key, to })}
            data={song.channels
              .filter((one) => one.kind === 'main' || (one.kind === 'bus' && one.key !== key))
              .map((one) => ({ value: one.key, label: one.name }))}
          />
        )}
      </Group>
      {kind !== 'vca' && <Sends song={song} channel={channel} make={make} />}
      {wrong && (
        <Text fz="sm" role="alert" className="trouble" mt={4}>
          {wrong}
        </Text>
      )}
      {kind !== 'main' && (
        <Group gap="xs" mt={10} wrap="nowrap" align="flex-start">
          <Button size="xs" variant="default" onClick={remove} style={{ flex: 'none' }}>
            Take {name} out
          </Button>
          <Text fz="xs" c="dimmed">
            {goesWith(song, key)}
          </Text>
        </Group>
      )}
    </>
  );
}

/** A text that is kept as the field is left, or with Enter. */
function Kept({ label, value, onKeep }: { label: string; value: string; onKeep: (value: string) => void }): ReactNode {
  const keep = (typed: string): void => {
    if (typed.trim() !== value) onKeep(typed.trim());
  };
  return (
    <TextInput
      key={value}
      size="xs"
      w={130}
      label={label}
      defaultValue={value}
      maxLength={200}
      onBlur={(event) => keep(event.currentTarget.value)}
      onKeyDown={(event) => event.key === 'Enter' && keep(event.currentTarget.value)}
    />
  );
}

function Sends({ song, channel, make }: { song: Song; channel: Channel; make: (edit: Edit) => boolean }): ReactNode {
  const { key, sends } = channel;
  const free = song.channels.filter(
    (one) => one.kind === 'bus' && one.key !== key && !sends.some(({ bus }) => bus === one.key),
  );
  const change = (remove: Send | null, add: Send | null): boolean => make({ kind: 'send', channel: key, remove, add });
  return (
    <div className="family-sends">
      {sends.map((send) => {
        const to = channelOf(song, send.bus)?.name ?? send.bus;
        return (
          <Group key={send.bus} gap="xs" wrap="nowrap">
            <Text fz="sm" w={110} truncate>
              {to}
            </Text>
            <SegmentedControl
              size="xs"
              aria-label={`${to} send is taken`}
              value={send.tap}
              onChange={(tap) => change(send, { ...send, tap: tap as Send['tap'] })}
              data={[
                { value: 'post', label: 'After the fader' },
                { value: 'pre', label: 'Before it' },
              ]}
            />
            <SegmentedControl
              size="xs"
              aria-label={`Pan of the ${to} send`}
              value={send.pan}
              onChange={(pan) => change(send, { ...send, pan: pan as Send['pan'] })}
              data={[
                { value: 'follow', label: 'Pan follows' },
                { value: 'own', label: 'Its own' },
              ]}
            />
            <ActionIcon
              variant="subtle"
              color="gray"
              aria-label={`Take the ${to} send out`}
              onClick={() => change(send, null)}
            >
              <IconTrash size={14} />
            </ActionIcon>
          </Group>
        );
      })}
      {free.length > 0 && (
        <Select
          size="xs"
          w={200}
          aria-label="Send to"
          placeholder="Send to…"
          value={null}
          onChange={(bus) => bus && change(null, sendWithDefaults({ bus }))}
          data={free.map((one) => ({ value: one.key, label: one.name }))}
        />
      )}
    </div>
  );
}

function NewChannels({ song }: { song: Song }): ReactNode {
  const dispatch = useAppDispatch();
  const [wrong, make] = useTry();
  const [name, setName] = useState('');
  const add = (kind: 'track' | 'bus'): void => {
    const fallback = kind === 'bus' ? 'Bus' : 'Track';
    const channel = newChannel(song, kind, name.trim() || fallback);
    const main = song.channels.findIndex((one) => one.kind === 'main');
    if (!make({ kind: 'addChannel', channel, ...(main < 0 ? {} : { at: main }) })) return;
    dispatch(takenInHand(controlId(channel.key, 'level')));
    dispatch(didSomething(`${channel.name} added. It goes out to the main.`));
    setName('');
  };
  return (
    <section className="family-one" aria-label="New channels">
      <Group gap="xs" align="flex-end" wrap="nowrap">
        <TextInput
          size="xs"
          w={150}
          label="A new one"
          placeholder="Name"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && add('bus')}
        />
        <Button size="xs" onClick={() => add('bus')}>
          Add bus
        </Button>
        <Button size="xs" variant="default" onClick={() => add('track')}>
          Add track
        </Button>
      </Group>
      {wrong && (
        <Text fz="sm" role="alert" className="trouble" mt={4}>
          {wrong}
        </Text>
      )}
      <MoreStems />
    </section>
  );
}
