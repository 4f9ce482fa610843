import { useEffect, useRef, type ReactNode } from 'react';
import type { Command } from '../hands/commands.js';
import type { CommandScene } from '../hands/commandScene.js';
import { enterTurns, escapeList, isTextField, keepsKey, leavesField } from '../hands/keys/keptKeys.js';
import { namesOfKey } from '../hands/keys/keyNames.js';
import {
  escapeGesture,
  escapeSheet,
  giveKey,
  keyboardLayout,
  readKeyboardLayout,
  tellEscape,
} from '../hands/keys/pageKeys.js';

/** A key that is down, of a command that lasts as long as it is, and what it went down on: that is let go of. */
type Held = { readonly code: string; readonly command: Command; readonly scene: CommandScene };

type Props = { readonly commands: readonly Command[]; readonly scene: () => CommandScene };

/** The keys of a song: each press is given to one of those who may want it, before anything else in the page hears of it. */
class SongKeys {
  readonly #held = new Map<string, Held>();
  /** What a pointer went down on last, and what it has given the focus by that; a key that goes on from there gives it another way. */
  #down: Element | null = null;
  #pointed: EventTarget | null = null;

  constructor(readonly props: { current: Props }) {}

  readonly pointer = ({ target }: PointerEvent): void => void (this.#down = target instanceof Element ? target : null);
  readonly focus = ({ target }: FocusEvent): void => {
    // Where a list that was opened by a pointer closes, the focus comes back to what it was opened from.
    const isBack = target === this.#pointed;
    const isOn = target instanceof Element && (target.contains(this.#down) || isLabelOf(this.#down, target));
    if (isOn) this.#pointed = target;
    else if (!isBack && !inList(target)) this.#pointed = null;
  };

  readonly down = (event: KeyboardEvent): void => {
    // What Esc is passed on as to a list that has not the focus yet comes by here again.
    if (!event.isTrusted || event.isComposing) return;
    if (event.key === 'Tab') this.#down = this.#pointed = null;
    if (giveKey(event)) return take(event);
    const target = event.target instanceof Element ? event.target : null;
    if (event.key === 'Escape') return this.#escape(event, target);
    if (isTextField(target)) return;
    const names = namesOfKey(event, keyboardLayout());
    const byPointer = this.#pointed === target;
    if (names.some((name) => keepsKey(target, name, byPointer))) {
      if (names.includes('enter') && enterTurns(target, byPointer)) take(event);
      return;
    }
    this.#press(event, names);
  };

  #press(event: KeyboardEvent, names: readonly string[]): void {
    const { commands, scene } = this.props.current;
    const now = scene();
    const command = names
      .flatMap((name) => commands.filter((one) => one.keys === name))
      .find((one) => one.fits?.(now) ?? true);
    if (!command) return;
    take(event);
    if (event.repeat && !command.repeats) return;
    if (command.release) {
      if (this.#held.has(command.id)) return;
      this.#held.set(command.id, { code: event.code, command, scene: now });
    }
    command.press(now);
  }

  /** Esc ends what is nearest to the hand, and nothing else: a drag, a list, a sheet; or else it lets go of everything. */
  #escape(event: KeyboardEvent, target: Element | null): void {
    tellEscape();
    const isInSheet = target?.closest('.sheet') ?? null;
    if (escapeGesture()) return take(event);
    if (escapeList()) return;
    // A field that is in no sheet knows what giving up is in it, or is left as it was.
    if (isTextField(target) && !isInSheet) return leavesField(target as HTMLElement);
    if (keepsKey(target, 'escape', false) && !isInSheet) return;
    if (escapeSheet()) return take(event);
    this.#press(event, namesOfKey(event));
  }

  /** It comes up whatever else is down by then: Shift makes no other key of it. */
  readonly up = (event: KeyboardEvent): void => {
    for (const { code, command } of this.#held.values()) if (code === event.code) this.#letGo(command);
    const target = event.target instanceof Element ? event.target : null;
    // Space is the song's: some browsers press a button as it comes up.
    if (event.key === ' ' && !isTextField(target)) event.preventDefault();
  };

  #letGo({ id }: Command): void {
    const held = this.#held.get(id);
    this.#held.delete(id);
    held?.command.release?.(held.scene);
  }

  /** What is not seen here any more is let go of. */
  readonly leave = (): void => {
    for (const { command } of [...this.#held.values()]) this.#letGo(command);
  };
}

const isLabelOf = (down: Element | null, target: Element): boolean =>
  down?.closest('label')?.control === target || (down?.closest('label')?.contains(target) ?? false);
/** What is chosen in a list that lies over the page is no place to stay. */
const inList = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest('[role="menu"], [role="listbox"]') !== null;

/** Nobody else in the page hears of a key that has been taken. */
function take(event: KeyboardEvent): void {
  event.preventDefault();
  event.stopPropagation();
}

/** Listens for the keys of all commands; they always act on the control in hand. */
export function CommandKeys(props: Props): ReactNode {
  const latest = useRef(props);
  latest.current = props;
  useEffect(() => {
    const keys = new SongKeys(latest);
    const listened = [
      ['keydown', keys.down],
      ['keyup', keys.up],
      ['pointerdown', keys.pointer],
      ['focusin', keys.focus],
      ['blur', keys.leave],
    ] as const;
    void readKeyboardLayout();
    const read = (): void => void readKeyboardLayout();
    for (const [kind, act] of listened) window.addEventListener(kind, act as EventListener, kind !== 'blur');
    window.addEventListener('focus', read);
    return () => {
      keys.leave();
      for (const [kind, act] of listened) window.removeEventListener(kind, act as EventListener, kind !== 'blur');
      window.removeEventListener('focus', read);
    };
  }, []);
  return null;
}
