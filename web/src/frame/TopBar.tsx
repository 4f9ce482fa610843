import { useEffect, useRef, type ReactNode } from 'react';
import { ActionIcon, Menu, Text, TextInput, UnstyledButton } from '@mantine/core';
import { useDisclosure } from '@mantine/hooks';
import {
  IconArrowBackUp,
  IconArrowForwardUp,
  IconArrowsHorizontal,
  IconChevronDown,
  IconCloudCheck,
  IconCloudOff,
  IconCornerUpLeft,
  IconDots,
  IconPlayerPlayFilled,
  IconPlayerSkipBack,
  IconPlayerStopFilled,
  IconRepeat,
} from '@tabler/icons-react';
import { Link, NavLink, useLocation } from 'react-router';
import { TIME_FORMATS, meterMap, parseTime, printTime, type TimeFormat } from '@sure-hand/core/time';
import { useOfHands, useOpenSong } from '../open/OpenSongProvider.js';
import { Tip } from '../parts/Tip.js';
import { useAppDispatch, useAppSelector, useOfSong, useSongParts } from '../store/store.js';
import { askedFor, formatChosen, keysShownSet, schemeToggled, tourMoved } from '../store/viewSlice.js';
import { isToured } from '../hands/tour.js';
import { VIEWS } from './views.js';
import { RangeButton } from './RangeButton.js';
import { WritingState } from './WritingState.js';

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
  const { engine, control } = useOpenSong();
  const { tempo, meter } = useOfSong('tempo', 'meter');
  const format = useAppSelector((state) => state.view.format);
  const big = useRef<HTMLSpanElement>(null);
  const small = useRef<HTMLSpanElement>(null);
  const [typing, { open, close }] = useDisclosure(false);
  useEffect(() => {
    const map = meterMap(tempo, meter);
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
  }, [engine, tempo, meter, format, typing]);
  const go = (typed: string): void => {
    const t = parseTime(typed, meterMap(tempo, meter));
    if (t !== null) void control.locate(t);
    close();
  };
  return (
    <div className="top-position">
      {typing ? (
        <TextInput
          aria-label="Go to"
          autoFocus
          size="xs"
          placeholder="17 3 or 1:02.5"
          onBlur={close}
          onKeyDown={(event) => {
            if (event.key === 'Enter') go(event.currentTarget.value);
            if (event.key === 'Escape') close();
          }}
        />
      ) : (
        <Tip label="Click to type where to go">
          <UnstyledButton onClick={open} aria-label="Position" className="position">
            <span ref={big} className="position-big" data-testid="position" />
            <span ref={small} className="position-small" />
          </UnstyledButton>
        </Tip>
      )}
      <FormatMenu />
    </div>
  );
}

function FormatMenu(): ReactNode {
  const dispatch = useAppDispatch();
  const format = useAppSelector((state) => state.view.format);
  return (
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
  );
}

function Transport(): ReactNode {
  const { control } = useOpenSong();
  const isMoving = useOfHands(({ session }) => session.isMoving);
  const canStepBack = useOfHands((open) => open.control.canStepBack);
  const { loop, punch } = useOfSong('settings').settings;
  return (
    <div className="top-transport">
      <Tip label="Back to where play began (Enter)">
        <ActionIcon
          variant="default"
          radius="xl"
          size={32}
          aria-label="Back to where play began"
          onClick={() => void control.returnToStart()}
        >
          <IconPlayerSkipBack size={16} />
        </ActionIcon>
      </Tip>
      <Tip label="Play or stop (Space)">
        <ActionIcon
          variant={isMoving ? 'filled' : 'default'}
          color="gray"
          radius="xl"
          size={38}
          aria-label={isMoving ? 'Stop' : 'Play'}
          onClick={() => void control.togglePlay()}
        >
          {isMoving ? <IconPlayerStopFilled size={18} /> : <IconPlayerPlayFilled size={18} />}
        </ActionIcon>
      </Tip>
      <Tip label="Back to where the line was (Shift+Enter)">
        <ActionIcon
          variant="default"
          radius="xl"
          size={32}
          aria-label="Back to where the line was"
          disabled={!canStepBack}
          onClick={() => void control.stepBack()}
        >
          <IconCornerUpLeft size={16} />
        </ActionIcon>
      </Tip>
      <RangeButton
        name="Loop"
        keys="L"
        icon={<IconRepeat size={14} />}
        on={loop}
        onChange={(to) => control.setLoop(to)}
      />
      <RangeButton
        name="Punch"
        keys="U"
        icon={<IconArrowsHorizontal size={14} />}
        on={punch}
        onChange={(to) => control.setPunch(to)}
      />
    </div>
  );
}

/** The last step and the one taken back last; their names stand in the tooltips, and in the hand bar once it is done. */
function Steps(): ReactNode {
  const { control } = useOpenSong();
  const { history } = useSongParts('history');
  const undo = history.undo ? `Undo ${history.undo}` : 'Undo';
  const redo = history.redo ? `Redo ${history.redo}` : 'Redo';
  return (
    <div className="top-steps">
      <Tip label={history.undo ? `${undo} (Ctrl+Z)` : 'Nothing to undo'} multiline maw={360}>
        <ActionIcon
          variant="subtle"
          color="gray"
          size={30}
          aria-label={undo}
          disabled={!history.undo}
          onClick={() => void control.undo()}
        >
          <IconArrowBackUp size={18} />
        </ActionIcon>
      </Tip>
      <Tip label={history.redo ? `${redo} (Shift+Ctrl+Z)` : 'Nothing to redo'} multiline maw={360}>
        <ActionIcon
          variant="subtle"
          color="gray"
          size={30}
          aria-label={redo}
          disabled={!history.redo}
          onClick={() => void control.redo()}
        >
          <IconArrowForwardUp size={18} />
        </ActionIcon>
      </Tip>
    </div>
  );
}

/** Whether the server can be reached: it lights up where it stands, and the hand bar says how much waits. */
function ServerState(): ReactNode {
  const { isAway, notKept, pending } = useSongParts('isAway', 'notKept', 'pending');
  const words = isAway
    ? `The server ${notKept ? 'can’t keep anything' : 'is away'}: ${pending.length} ${pending.length === 1 ? 'edit waits' : 'edits wait'}, kept in this browser`
    : 'The server has everything';
  return (
    <Tip label={words}>
      <span className={isAway ? 'server-state is-away' : 'server-state'} role="img" aria-label={words}>
        {isAway ? <IconCloudOff size={16} /> : <IconCloudCheck size={16} />}
      </span>
    </Tip>
  );
}

/** What is rarely used shares one menu. */
function MoreMenu(): ReactNode {
  const dispatch = useAppDispatch();
  const scheme = useAppSelector((state) => state.view.scheme);
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <ActionIcon variant="subtle" color="gray" size={30} aria-label="More: song, light, keys">
          <IconDots size={18} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item rightSection={<Hint keys="Shift+T" />} onClick={() => dispatch(askedFor({ what: 'song' }))}>
          Name, tempo and meter
        </Menu.Item>
        <Menu.Item rightSection={<Hint keys="W" />} onClick={() => dispatch(askedFor({ what: 'writing' }))}>
          How passes write
        </Menu.Item>
        <Menu.Item rightSection={<Hint keys="Alt+C" />} onClick={() => dispatch(askedFor({ what: 'cutShort' }))}>
          Passes that were cut short
        </Menu.Item>
        <Menu.Divider role="separator" />
        <Menu.Item onClick={() => dispatch(schemeToggled())}>
          {scheme === 'lamp' ? 'Light: paper' : 'Dark: lamp'}
        </Menu.Item>
        <Menu.Item rightSection={<Hint keys="?" />} onClick={() => dispatch(keysShownSet(true))}>
          All keys
        </Menu.Item>
        <TourItem />
        <Menu.Item component={Link} to="/">
          All songs
        </Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}

/** The tour once more; only of the song that it is about. */
function TourItem(): ReactNode {
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  if (!isToured(song)) return null;
  return <Menu.Item onClick={() => dispatch(tourMoved({ step: 0 }))}>The tour of this song</Menu.Item>;
}

const Hint = ({ keys }: { keys: string }): ReactNode => <Text fz="xs">{keys}</Text>;

/** The views side by side; where the window is narrow, in a menu in their place. */
function Views(): ReactNode {
  const { id } = useOpenSong();
  const { pathname } = useLocation();
  const open = VIEWS.find(({ path }) => pathname.endsWith(`/${path}`));
  return (
    <>
      <nav className="views" aria-label="Views">
        {VIEWS.map(({ path, name }) => (
          <NavLink key={path} to={`/songs/${id}/${path}`} className="view">
            {name}
          </NavLink>
        ))}
      </nav>
      <Menu position="bottom-start">
        <Menu.Target>
          <UnstyledButton className="view views-menu active" aria-label={`View: ${open?.name ?? ''}`}>
            {open?.name ?? 'Views'} <IconChevronDown size={13} />
          </UnstyledButton>
        </Menu.Target>
        <Menu.Dropdown>
          {VIEWS.map(({ path, name }) => (
            <Menu.Item key={path} component={Link} to={`/songs/${id}/${path}`}>
              {name}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
    </>
  );
}

/** The top of every view of a song. Each part has its place and width, whatever is on, parked or away. */
export function TopBar(): ReactNode {
  const { name } = useOfSong('name');
  return (
    <header className="top-bar">
      <Tip label={`${name}: back to all songs`}>
        <Link to="/" className="song-name">
          {name}
        </Link>
      </Tip>
      <Views />
      <Position />
      <Transport />
      <WritingState />
      <Steps />
      <ServerState />
      <MoreMenu />
    </header>
  );
}
