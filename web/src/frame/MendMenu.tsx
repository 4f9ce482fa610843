import { Fragment, type ReactNode } from 'react';
import { Menu, Text } from '@mantine/core';
import { IconPencil } from '@tabler/icons-react';
import { changedKeys, printKeys, withKeys, type Command } from '../hands/commands.js';
import { PlainButton } from '../parts/PlainButton.js';
import { useCommandScene } from './useCommandScene.js';

/** What mends curves, as its keys do, in groups. */
const GROUPS = [
  ['wave', 'sway', 'thin', 'clearBy', 'shift', 'typePoints', 'numbers'],
  ['copy', 'cut', 'paste', 'pasteTo', 'duplicate'],
  ['fadeIn', 'fadeOut', 'shoulders'],
  ['pickAll', 'pickOn', 'pickRange', 'pickPass', 'hearRange', 'hearAgain'],
] as const;

/** Everything that mends the curve in hand, for those who do it with the pointer. */
export function MendMenu(): ReactNode {
  const scene = useCommandScene();
  const commands = new Map(withKeys(changedKeys()).map((one) => [one.id, one]));
  const item = (command: Command): ReactNode => (
    <Menu.Item key={command.id} rightSection={<Hint keys={command.keys} />} onClick={() => command.press(scene())}>
      {command.name}
    </Menu.Item>
  );
  return (
    <Menu position="top-end" returnFocus={false}>
      <Menu.Target>
        <PlainButton
          className="act mend-menu"
          aria-label="Mend the curve"
          title="Mend the curve: shapes, thinning, copying, numbers"
        >
          <IconPencil size={17} />
        </PlainButton>
      </Menu.Target>
      <Menu.Dropdown className="mend-items">
        <Menu.Item rightSection={<Hint keys="z" />} onClick={() => scene().draw('once')}>
          Draw once with the pointer
        </Menu.Item>
        {GROUPS.map((ids, i) => (
          <Fragment key={ids[0]}>
            {i > 0 && <Menu.Divider role="separator" />}
            {ids.map((id) => item(commands.get(id)!))}
          </Fragment>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}

const Hint = ({ keys }: { keys: string }): ReactNode => <Text fz="xs">{printKeys(keys)}</Text>;
