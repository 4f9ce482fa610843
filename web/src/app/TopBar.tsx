import { useEffect, useRef, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Menu, Text, TextInput, Tooltip, UnstyledButton } from '@mantine/core';
import { useDisclosure } from '@mantine/hooks';
import {
  IconAdjustmentsHorizontal,
  IconArrowBackUp,
  IconArrowsHorizontal,
  IconArrowForwardUp,
  IconCornerUpLeft,
  IconKeyboard,
  IconMoon,
  IconPlayerPlayFilled,
  IconPlayerSkipBack,
  IconPlayerStopFilled,
  IconRepeat,
  IconSun,
} from '@tabler/icons-react';
import { Link, NavLink } from 'react-router';
import { TIME_FORMATS, meterMap, parseTime, printTime, type TimeFormat } from '@sure-hand/core/time';
import { useHands, useOpenSong } from './openSong.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { askedFor, formatChosen, keysShownSet, schemeToggled } from './viewSlice.js';
import { VIEWS } from './views.js';
import { RangeButton, WritingState } from './WritingState.js';

const FORMAT_NAMES: Record<TimeFormat, string> = {
  bars: 'Bars, beats',
  clock: 'Minutes, seconds',
  tc24: 'Timecode, 24',
  tc25: 'Timecode, 25',
  'tc29.97df': 'Timecode, 29.97 drop-frame',
  tc30: 'Timecode, 30',
};

/** The position as heard, in the chosen format; a click lets one type where to go, the small button chooses the format. */
function Position(): ReactNode {
  const { engine, control } = useHands();
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const format = useAppSelector((state) => state.view.format);
  const big = useRef<HTMLSpanElement>(null);
  const small = useRef<HTMLSpanElement>(null);
  const [typing, { open, close }] = useDisclosure(false);
  useEffect(() => {
    const map = meterMap(song.tempo, song.meter);
    let frame = 0;
    const write = (at: HTMLElement | null, text: string): void => {
      if (at && at.textContent !== text) at.textContent = text;
    };
    const tick = (): void => {
      const t = engine.positionAt(performance.now());
      write(big.current, printTime(format, map, t));
      write(small.current, printTime(format === 'bars' ? 'clock' : 'bars', map, t));
      frame = requestAnimationFrame(tick);
    };
    tick();
    return () => cancelAnimationFrame(frame);
  }, [engine, song.tempo, song.meter, format, typing]);
  const go = (typed: string): void => {
    const t = parseTime(typed, meterMap(song.tempo, song.meter));
    if (t !== null) void control.locate(t);
    close();
  };
  return (
    <Group gap={0} wrap="nowrap" w={176} justify="flex-end">
      {typing ? (
        <TextInput
          aria-label="Go to"
          autoFocus
          size="xs"
          placeholder="17.3 or 1:02.5"
          onBlur={close}
          onKeyDown={(event) => {
            if (event.key === 'Enter') go(event.currentTarget.value);
            if (event.key === 'Escape') close();
          }}
        />
      ) : (
        <Tooltip label="Click to type where to go">
          <UnstyledButton onClick={open} aria-label="Position" className="position">
            <span ref={big} className="position-big" data-testid="position" />
            <span ref={small} className="position-small" />
          </UnstyledButton>
        </Tooltip>
      )}
      <Menu>
        <Menu.Target>
          <ActionIcon variant="subtle" color="gray" aria-label="Time format" size="sm">
            ⋮
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          {TIME_FORMATS.map((one) => (
            <Menu.Item key={one} fw={one === format ? 700 : 400} onClick={() => dispatch(formatChosen(one))}>
              {FORMAT_NAMES[one]}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </Group>
  );
}

function Transport(): ReactNode {
  const { session, control } = useHands();
  const song = useAppSelector((state) => state.song.song)!;
  return (
    <Group gap={6} wrap="nowrap">
      <Tooltip label="Back to where play began (Enter)">
        <ActionIcon
          variant="default"
          radius="xl"
          size={32}
          aria-label="Back to where play began"
          onClick={() => void control.returnToStart()}
        >
          <IconPlayerSkipBack size={16} />
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Play or stop (Space)">
        <ActionIcon
          variant={session.isMoving ? 'filled' : 'default'}
          color="gray"
          radius="xl"
          size={38}
          aria-label={session.isMoving ? 'Stop' : 'Play'}
          onClick={() => void control.togglePlay()}
        >
          {session.isMoving ? <IconPlayerStopFilled size={18} /> : <IconPlayerPlayFilled size={18} />}
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Back to where the line was (Backspace)">
        <ActionIcon
          variant="default"
          radius="xl"
          size={32}
          aria-label="Back to where the line was"
          disabled={!control.canStepBack}
          onClick={() => void control.stepBack()}
        >
          <IconCornerUpLeft size={16} />
        </ActionIcon>
      </Tooltip>
      <RangeButton
        name="Loop"
        keys="L"
        icon={<IconRepeat size={14} />}
        on={song.settings.loop}
        onChange={(to) => control.setLoop(to)}
      />
      <RangeButton
        name="Punch"
        keys="U"
        icon={<IconArrowsHorizontal size={14} />}
        on={song.settings.punch}
        onChange={(to) => control.setPunch(to)}
      />
    </Group>
  );
}

function Steps(): ReactNode {
  const { control } = useHands();
  const { history, isAway, pending } = useAppSelector((state) => state.song);
  return (
    <Group gap={4} wrap="nowrap" miw={0}>
      {isAway && (
        <Text fz="xs" c="hand" fw={700} role="alert">
          Server away: {pending.length} {pending.length === 1 ? 'edit waits' : 'edits wait'}
        </Text>
      )}
      <Tooltip label={history.undo ? `Undo ${history.undo} (Ctrl+Z)` : 'Nothing to undo'}>
        <Button
          size="xs"
          variant="subtle"
          color="gray"
          className="step"
          leftSection={<IconArrowBackUp size={16} />}
          disabled={!history.undo}
          onClick={() => void control.undo()}
        >
          {history.undo ? `Undo ${history.undo}` : 'Undo'}
        </Button>
      </Tooltip>
      <Tooltip label={history.redo ? `Redo ${history.redo} (Shift+Ctrl+Z)` : 'Nothing to redo'}>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label={history.redo ? `Redo ${history.redo}` : 'Redo'}
          disabled={!history.redo}
          onClick={() => void control.redo()}
        >
          <IconArrowForwardUp size={16} />
        </ActionIcon>
      </Tooltip>
    </Group>
  );
}

/** The top of every view of a song: its name, the transport, undo and redo by name. */
export function TopBar(): ReactNode {
  const dispatch = useAppDispatch();
  const { id } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const scheme = useAppSelector((state) => state.view.scheme);
  return (
    <header className="top-bar">
      <Group gap="sm" wrap="nowrap" miw={0} className="top-name">
        <Tooltip label="All songs">
          <Text component={Link} to="/" fw={700} truncate className="song-name">
            {song.name}
          </Text>
        </Tooltip>
        <Tooltip label="Name, tempo and meter (Shift+T)">
          <ActionIcon
            variant="subtle"
            color="gray"
            size="sm"
            aria-label="Name, tempo and meter"
            onClick={() => dispatch(askedFor({ what: 'song' }))}
          >
            <IconAdjustmentsHorizontal size={16} />
          </ActionIcon>
        </Tooltip>
        <nav className="views" aria-label="Views">
          {VIEWS.map(({ path, name }) => (
            <NavLink key={path} to={`/songs/${id}/${path}`} className="view">
              {name}
            </NavLink>
          ))}
        </nav>
      </Group>
      <Group gap="md" wrap="nowrap">
        <Position />
        <Transport />
        <WritingState />
      </Group>
      <Group gap={4} wrap="nowrap" justify="flex-end" miw={0} className="top-steps">
        <Steps />
        <Tooltip label={scheme === 'lamp' ? 'Light: paper' : 'Dark: lamp'}>
          <ActionIcon
            variant="subtle"
            color="gray"
            aria-label="Light or dark"
            onClick={() => dispatch(schemeToggled())}
          >
            {scheme === 'lamp' ? <IconSun size={16} /> : <IconMoon size={16} />}
          </ActionIcon>
        </Tooltip>
        <Tooltip label="All keys (?)">
          <ActionIcon variant="subtle" color="gray" aria-label="All keys" onClick={() => dispatch(keysShownSet(true))}>
            <IconKeyboard size={18} />
          </ActionIcon>
        </Tooltip>
      </Group>
    </header>
  );
}
