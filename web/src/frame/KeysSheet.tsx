import { useEffect, useState, useSyncExternalStore, type ReactNode } from 'react';
import { Button, Group, Kbd, Stack, Text, UnstyledButton } from '@mantine/core';
import { COMMANDS, printKeys, type Command } from '../hands/commands.js';
import { keyboardLayout, onKeyboardLayout, takeNextKey } from '../hands/keys/pageKeys.js';
import { Sheet } from '../parts/Sheet.js';

type Props = {
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

/** All keys, each of which can be changed by clicking it and pressing another. The song goes on meanwhile. */
export function KeysSheet({ commands, onClose, onChange }: Props): ReactNode {
  const { asking, ask } = useNewKey(commands, onChange);
  const layout = useSyncExternalStore(onKeyboardLayout, keyboardLayout);
  const groups = [...new Set(commands.map((command) => command.group))];
  return (
    <Sheet name="Keys" className="sheet-keys" onClose={onClose}>
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
                    <Kbd>{asking === command.id ? 'press a key…' : printKeys(command.keys, layout)}</Kbd>
                  </UnstyledButton>
                </Group>
              ))}
          </Stack>
        ))}
      </div>
      <Group justify="space-between" mt="md">
        <Text fz="xs" c="dimmed">
          Click a key, then press the one you want instead; Esc leaves it as it is.
        </Text>
        <Button size="xs" variant="default" onClick={() => onChange({})}>
          All as they were
        </Button>
      </Group>
    </Sheet>
  );
}

/** Takes the key that a command is to have instead, once it is asked for, and as long as the sheet is there. */
function useNewKey(
  commands: readonly Command[],
  onChange: Props['onChange'],
): { readonly asking: string | null; readonly ask: (command: string) => void } {
  const [asking, setAsking] = useState<string | null>(null);
  useEffect(() => {
    if (!asking) return;
    return takeNextKey((keys) => {
      setAsking(null);
      if (keys === null) return;
      const taken = commands.find((command) => command.keys === keys && command.id !== asking);
      const mine = commands.find((command) => command.id === asking)!;
      // Two commands never share a key: the one that had it gets the other's.
      onChange({ ...changedOf(commands), [asking]: keys, ...(taken ? { [taken.id]: mine.keys } : {}) });
    });
  }, [asking, commands, onChange]);
  return { asking, ask: setAsking };
}
