import { memo, type ReactNode } from 'react';
import { isHeardUnderSolo } from '@sure-hand/core/mix';
import { IconPin, IconPinFilled } from '@tabler/icons-react';
import { controlsOfChannel, isParked, isSafe, type Control, type Song, controlId } from '@sure-hand/core/song';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';
import { useAppDispatch, useAppSelector } from '../../store/store.js';
import { askedFor, laneChosen, pinToggled, takenInHand } from '../../store/viewSlice.js';
import { gangWords } from '../../hands/familyWords.js';
import { ChannelActs } from './ChannelActs.js';
import { LaneButton, SpokenCap } from './laneParts.js';
import { Members } from './Members.js';
import { ModeMenu, waitingTrim } from './ModeMenu.js';
import type { ChannelRow } from './rideLayout.js';

/** What a slim row tells of its channel by shape: curves out of sight, safe, parked, trim waiting. */
export function Marks({ song, row }: { song: Song; row: Pick<ChannelRow, 'channel' | 'control'> }): ReactNode {
  const controls = controlsOfChannel(song, row.channel);
  const hidden = controls.filter((one) => one.id !== row.control && song.lanes[one.id]?.points.length);
  const marks: { readonly key: string; readonly label: string; readonly shape: ReactNode }[] = [];
  const trimmed = waitingTrim(song, row.channel);
  if (trimmed.length)
    marks.push({
      key: 'trim',
      label: `Trim waits: ${trimmed.join(', ')}. F folds it`,
      shape: <path d="M2 10 10 2M2 6 6 2M6 10l4-4" />,
    });
  const parked = controls.filter((one) => isParked(song, one.id));
  const safe = controls.filter((one) => isSafe(song, one.id));
  const listed = (some: readonly Control[]): string =>
    some.length === controls.length ? 'everything' : some.map((one) => one.name.toLowerCase()).join(', ');
  if (parked.length)
    marks.push({
      key: 'parked',
      label: `Parked, not read: ${listed(parked)}`,
      shape: <path d="M1 6h10" strokeDasharray="1.5 2.5" />,
    });
  if (safe.length)
    marks.push({
      key: 'safe',
      label: `Safe, written by nothing: ${listed(safe)}`,
      shape: <circle cx="6" cy="6" r="4" />,
    });
  const gangs = song.gangs.filter(({ channels }) => channels.includes(row.channel.key) && channels.length > 1);
  if (gangs.length)
    marks.push({
      key: 'gang',
      label: gangs.map((gang) => gangWords(song, gang)).join('. '),
      shape: <path d="M4 3.5a2.5 2.5 0 1 0 0 5h1.5M8 8.5a2.5 2.5 0 1 0 0-5H6.5M4.5 6h3" />,
    });
  if (hidden.length)
    marks.push({
      key: 'hidden',
      label: `Curves out of sight: ${hidden.map((one) => one.name.toLowerCase()).join(', ')}`,
      shape: <path d="M1 9c3 0 3-6 5-6s2 6 5 6" />,
    });
  return marks.map(({ key, label, shape }) => <Mark key={key} label={label} shape={shape} />);
}

const Mark = ({ label, shape }: { label: string; shape: ReactNode }): ReactNode => (
  <Tip label={label}>
    <svg width="12" height="12" className="mark" role="img" aria-label={label} fill="none" stroke="currentColor">
      {shape}
    </svg>
  </Tip>
);

/** How many letters of a name's end stay to be read when its middle is left out. */
const TAIL = 7;

/** A name that is shortened in its middle where there is no room for it: takes and mics are told apart by their ends. */
export function ShortName({ name }: { name: string }): ReactNode {
  const cut = Math.max(0, name.length - TAIL);
  return (
    <span className="short-name">
      <span className="name-start">{name.slice(0, cut)}</span>
      <span className="name-end">{name.slice(cut)}</span>
    </span>
  );
}

/** All lanes of a channel, and whether its row stays tall. */
function LanesList({ song, row }: { song: Song; row: ChannelRow }): ReactNode {
  const dispatch = useAppDispatch();
  const { channel } = row;
  const isPinned = useAppSelector((state) => state.view.pinned.includes(channel.key));
  return (
    <div className="lanes-list">
      <div className="lanes-acts">
        <ChannelActs song={song} channel={channel} className="row-acts" />
        <PlainButton
          className="small"
          title="Found by name, kept open below each other (A)"
          onClick={() => {
            dispatch(takenInHand(row.control));
            dispatch(askedFor({ what: 'lanes' }));
          }}
        >
          Lanes…
        </PlainButton>
        {channel.kind !== 'vca' && (
          <PlainButton
            className="small"
            title="Effects in its path: added, ordered, copied (Shift+E)"
            onClick={() => {
              dispatch(takenInHand(row.control));
              dispatch(askedFor({ what: 'inserts' }));
            }}
          >
            Inserts…
          </PlainButton>
        )}
      </div>
      {controlsOfChannel(song, channel).map((one) => (
        <LaneButton key={one.id} control={one} isFront={one.id === row.control} />
      ))}
      <PlainButton className="lane pin" aria-pressed={isPinned} onClick={() => dispatch(pinToggled(channel.key))}>
        <span>{isPinned ? 'Pinned tall' : 'Pin tall'}</span>
        {isPinned ? <IconPinFilled size={13} /> : <IconPin size={13} />}
      </PlainButton>
    </div>
  );
}

type HeadProps = { readonly song: Song; readonly row: ChannelRow; readonly hue: string };

/** What a row's head shows of the song, besides its channel: most changes of the song are none of it. */
function shownOf(song: Song, { channel }: ChannelRow): string {
  const { deskMode, parked } = song.settings;
  const gangs = song.gangs
    .filter(({ channels }) => channels.includes(channel.key))
    .map((gang) => gangWords(song, gang));
  const lanes = controlsOfChannel(song, channel).map(({ id }) => {
    const lane = song.lanes[id];
    const rest = id === controlId(channel.key, 'mute') ? lane?.rest : '';
    const flags = [
      lane?.points.length,
      lane?.trim.length,
      lane?.safe,
      lane?.parked,
      lane?.sway?.on,
      isSafe(song, id),
      isParked(song, id),
    ];
    return `${rest}${flags.map(Boolean).map(Number).join('')}`;
  });
  return [deskMode, parked, isHeardUnderSolo(song, channel.key), ...gangs, ...lanes].join(' ');
}

/** Whether a row's head shows the same of two songs: nothing has to be read where all it is made of is the same. */
const showsSame = (a: Song, b: Song, row: ChannelRow): boolean =>
  a === b ||
  (a.settings === b.settings &&
    a.channels === b.channels &&
    a.gangs === b.gangs &&
    controlsOfChannel(b, row.channel).every(({ id }) => a.lanes[id] === b.lanes[id])) ||
  shownOf(a, row) === shownOf(b, row);

const isSameHead = (a: HeadProps, b: HeadProps): boolean =>
  a.row === b.row && a.hue === b.hue && showsSame(a.song, b.song, b.row);

/** The head of a channel's row. Solo, mute, pin and lanes come up on the row in hand and on hover. */
export const RowHead = memo(function RowHead({ song, row, hue }: HeadProps): ReactNode {
  const dispatch = useAppDispatch();
  const isInHand = useAppSelector((state) => state.view.inHand === row.control);
  const isChosen = useAppSelector((state) => state.view.chosen.includes(row.control));
  const { channel } = row;
  const states = [row.isTall && 'is-tall', isInHand && 'is-in-hand', isChosen && 'is-chosen'].filter(Boolean);
  return (
    <div
      className={['row-head', ...states].join(' ')}
      style={{ top: row.top, height: row.height, borderLeftColor: hue }}
      data-testid={`row-${channel.key}`}
    >
      <div className="row-line">
        <PlainButton
          className="row-name"
          aria-label={channel.name}
          title={channel.name}
          onClick={(event) =>
            dispatch(event.ctrlKey || event.metaKey ? laneChosen(row.control) : takenInHand(row.control))
          }
        >
          <ShortName name={channel.name} />
        </PlainButton>
        <SpokenCap row={row} />
        {!row.isTall && <ChannelActs song={song} channel={channel} className="row-acts" />}
        <span className="marks">
          <Marks song={song} row={row} />
        </span>
        <Members song={song} channel={channel} />
        <ModeMenu song={song} row={row} />
      </div>
      {row.isTall && <LanesList song={song} row={row} />}
    </div>
  );
}, isSameHead);
