import { useEffect, useState, type ReactNode } from 'react';
import { Button, Group, Kbd, Modal, Stack, Text, UnstyledButton } from '@mantine/core';
import { useRecordHotkeys } from 'react-hotkeys-hook';
import { COMMANDS, printKeys, type Command } from '../hands/commands.js';

type Props = {
  readonly opened: boolean;
  readonly commands: readonly Command[];
  readonly onClose: () => void;
  readonly onChange: (changed: { readonly [command: string]: string }) => void;
};

/** The keys as they differ from those the commands come with. */
const changedOf = (commands: readonly Command[]): { [command: string]: string } =>
  Object.fromEntries(
    commands.flatMap(({ id, keys }) =>
      COMMANDS.find((one) => one.id === id)!.keys === keys ? [] : [[id, keys] as const],
    ),
  );

/** All keys, each of which can be changed by clicking it and pressing another. */
export function KeysSheet({ opened, commands, onClose, onChange }: Props): ReactNode {
  const { asking, ask } = useNewKey(commands, onChange);
  const groups = [...new Set(commands.map((command) => command.group))];
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      title="Keys"
      closeButtonProps={{ 'aria-label': 'Close' }}
      size={1120}
      yOffset="4vh"
    >
      <div className="keys-columns">
        {groups.map((group) => (
          <Stack key={group} gap={2} className="keys-group">
            <Text fz="xs" c="dimmed" fw={700}>
              {group}
            </Text>
            {commands
              .filter((command) => command.group === group)
              .map((command) => (
                <Group key={command.id} justify="space-between" gap="xs" wrap="nowrap">
                  <Text fz="sm">{command.name}</Text>
                  <UnstyledButton aria-label={`Change the key of ${command.name}`} onClick={() => ask(command.id)}>
                    <Kbd>{asking === command.id ? 'press a key…' : printKeys(command.keys)}</Kbd>
                  </UnstyledButton>
                </Group>
              ))}
          </Stack>
        ))}
      </div>
      <Group justify="space-between" mt="md">
        <Text fz="xs" c="dimmed">
          Click a key, then press the one you want instead.
        </Text>
        <Button size="xs" variant="default" onClick={() => onChange({})}>
          All as they were
        </Button>
      </Group>
    </Modal>
  );
}

/** Listens for the key that a command is to have instead, once it is asked for. */
function useNewKey(
  commands: readonly Command[],
  onChange: Props['onChange'],
): { readonly asking: string | null; readonly ask: (command: string) => void } {
  const [asking, setAsking] = useState<string | null>(null);
  const [recorded, { start, stop, resetKeys }] = useRecordHotkeys();
  useEffect(() => {
    if (!asking || recorded.size === 0) return;
    const keys = [...recorded].map((key) => (key === 'ctrl' || key === 'meta' ? 'mod' : key)).join('+');
    if (/^(mod|shift|alt)(\+(mod|shift|alt))*$/.test(keys)) return;
    stop();
    resetKeys();
    setAsking(null);
    const taken = commands.find((command) => command.keys === keys && command.id !== asking);
    const mine = commands.find((command) => command.id === asking)!;
    // Two commands never share a key: the one that had it gets the other's.
    onChange({ ...changedOf(commands), [asking]: keys, ...(taken ? { [taken.id]: mine.keys } : {}) });
  }, [asking, recorded, commands, onChange, stop, resetKeys]);
  const ask = (command: string): void => {
    resetKeys();
    start();
    setAsking(command);
  };
  return { asking, ask };
}
