import { useEffect, useRef, type ReactNode } from 'react';
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
  /** The key that is down, of a command that lasts as long as it is, and what it went down on: that is let go of. */
  const held = useRef<{ readonly code: string; readonly scene: CommandScene } | null>(null);
  useHotkeys(
    command.keys,
    (event) => {
      if (isSpokenFor(event, command) || command.fits?.(scene()) === false) return;
      event.preventDefault();
      if (command.release && held.current) return;
      const now = scene();
      if (command.release) held.current = { code: event.code, scene: now };
      command.press(now);
    },
    [command, scene],
  );
  // It comes up whatever else is down by then, or elsewhere: Shift makes no other key of it, and what is not seen here is let go of.
  useEffect(() => {
    if (!command.release) return;
    const letGo = (): void => {
      const was = held.current;
      held.current = null;
      if (was) command.release?.(was.scene);
    };
    const up = (event: KeyboardEvent): void => {
      if (event.code === held.current?.code) letGo();
    };
    window.addEventListener('keyup', up, true);
    window.addEventListener('blur', letGo);
    return () => {
      letGo();
      window.removeEventListener('keyup', up, true);
      window.removeEventListener('blur', letGo);
    };
  }, [command]);
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
