import { useState, type ReactNode } from 'react';
import { ActionIcon, Button, Checkbox, Group, Menu, Popover, Stack, Text, TextInput } from '@mantine/core';
import { IconDotsVertical } from '@tabler/icons-react';
import type { GuardSet } from '@sure-hand/core/song';
import { channelsOf } from '../../hands/families.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppSelector, useViewParts } from '../../store/store.js';

/** Guards kept under names: brought back by a click, kept anew, forgotten. */
export function GuardSets(): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  return (
    <Group gap={8} wrap="nowrap" className="guard-sets">
      <Text fz="sm" fw={700}>
        Kept sets
      </Text>
      {song.guardSets.map((set) => (
        <KeptSet key={set.key} set={set} />
      ))}
      <KeepThis />
    </Group>
  );
}

function KeptSet({ set }: { set: GuardSet }): ReactNode {
  const { guards } = useOpenSong();
  return (
    <Group gap={0} wrap="nowrap">
      <Button
        size="xs"
        radius="xl"
        variant="default"
        onClick={() => guards.bring(set)}
        title={`${Object.keys(set.channels).length} channels`}
      >
        {set.name}
      </Button>
      <Menu position="bottom-end">
        <Menu.Target>
          <ActionIcon variant="subtle" color="gray" size="sm" aria-label={`What can be done with the set ${set.name}`}>
            <IconDotsVertical size={14} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => guards.keep(set.name, Object.keys(set.channels), set.scope !== null)}>
            Keep it as its channels are now
          </Menu.Item>
          <Menu.Item onClick={() => guards.forget(set)}>Forget it</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </Group>
  );
}

/** Keeps how channels are guarded now: those chosen, else all. */
function KeepThis(): ReactNode {
  const { guards } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const { chosen } = useViewParts('chosen');
  const [isOpen, open] = useState(false);
  const [name, setName] = useState('');
  const [withScope, setWithScope] = useState(false);
  const own = channelsOf(song, chosen);
  const channels = own.length ? own : song.channels.map(({ key }) => key);
  const keep = (): void => {
    if (!name.trim()) return;
    guards.keep(name.trim(), channels, withScope);
    open(false);
    setName('');
  };
  return (
    <Popover opened={isOpen} onChange={open} position="bottom-end" trapFocus>
      <Popover.Target>
        <Button size="xs" radius="xl" variant="default" onClick={() => open(!isOpen)}>
          Keep this one…
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Stack gap="xs">
          <TextInput
            size="xs"
            label="Name"
            placeholder="Protect the drums"
            maxLength={200}
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
            onKeyDown={(event) => event.key === 'Enter' && keep()}
          />
          <Checkbox
            size="xs"
            label="The write scope too"
            checked={withScope}
            onChange={(event) => setWithScope(event.currentTarget.checked)}
          />
          <Text fz="xs" c="dimmed" maw={260}>
            Keeps what is safe and parked on {own.length ? `the ${own.length} chosen channels` : 'all channels'}.
          </Text>
          <Button size="xs" disabled={!name.trim()} onClick={keep}>
            Keep
          </Button>
        </Stack>
      </Popover.Dropdown>
    </Popover>
  );
}
