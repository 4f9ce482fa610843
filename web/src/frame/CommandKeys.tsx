import { useRef, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { Command } from '../hands/commands.js';
import type { CommandScene } from '../hands/commandScene.js';

/** Whether a key belongs to what has the focus: a menu, a dialog, a field, a toolbar that Tab walks through. */
function isSpokenFor(event: KeyboardEvent, command: Command): boolean {
  const target = event.target instanceof Element ? event.target : null;
  if (target?.closest('[role="menu"], [role="dialog"]:not(.sheet), [role="listbox"]')) return true;
  const walks = command.id === 'next' || command.id === 'previous';
  const presses = command.id === 'play' || command.id === 'return';
  if (presses && event.key === 'Enter' && target?.closest('button, a')) return true;
  return walks && !!target?.closest('header, footer, .sheet');
}

function CommandKey({ command, scene }: { command: Command; scene: () => CommandScene }): ReactNode {
  const isDown = useRef(false);
  useHotkeys(
    command.keys,
    (event) => {
      if (isSpokenFor(event, command) || command.fits?.(scene()) === false) return;
      event.preventDefault();
      if (event.type === 'keyup') {
        if (isDown.current) command.release?.(scene());
        isDown.current = false;
        return;
      }
      if (command.release && isDown.current) return;
      isDown.current = true;
      command.press(scene());
    },
    { keydown: true, keyup: command.release !== undefined },
    [command, scene],
  );
  return null;
}

/** Listens for the keys of all commands; they always act on the control in hand. */
export function CommandKeys({
  commands,
  scene,
}: {
  commands: readonly Command[];
  scene: () => CommandScene;
}): ReactNode {
  return commands.map((command) => <CommandKey key={command.id} command={command} scene={scene} />);
}
