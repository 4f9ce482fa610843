import { useEffect, useRef, useState, type ReactNode } from 'react';
import { Menu, Text, type MenuProps } from '@mantine/core';
import {
  MODES,
  controlOf,
  controlsOfChannel,
  modeInForce,
  ownGuards,
  type Channel,
  type ControlKind,
  type Song,
} from '@sure-hand/core/song';
import { channelsModedWith } from '@sure-hand/core/groups';
import { channelsOf } from '../../hands/families.js';
import { MODE_NAMES } from '../../hands/laneFilter.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useViewParts } from '../../store/store.js';
import { PlainButton } from '../../parts/PlainButton.js';
import type { ChannelRow } from './rideLayout.js';

/** The channel that it is the menu of, and the control that stands in front. */
type Row = Pick<ChannelRow, 'channel' | 'control'>;

/** Up or down as it must to stand between the top and the hand bar. */
const BESIDE: MenuProps['middlewares'] = {
  flip: { flipAlignment: false, crossAxis: false },
  shift: { limiter: undefined, padding: { top: 52, bottom: 68, left: 5, right: 5 } },
};

/** The mode of a channel, and what opens its menu: which is made when it is asked for, since there may be hundreds. */
export function ModeMenu({ song, row }: { song: Song; row: Row }): ReactNode {
  const [isAsked, ask] = useState(false);
  const mode = modeInForce(song, row.channel.key);
  const { trim, name } = row.channel;
  const look = {
    className: `mode mode-${mode} ${trim ? 'is-trim' : ''}`,
    'aria-label': `Mode of ${name}: ${MODE_NAMES[mode]}${trim ? ' with trim' : ''}`,
  };
  if (isAsked) return <OpenedMenu song={song} row={row} look={look} words={MODE_NAMES[mode]} />;
  return (
    <PlainButton {...look} aria-haspopup="menu" aria-expanded={false} onClick={() => ask(true)}>
      {MODE_NAMES[mode]}
    </PlainButton>
  );
}

/** The menu once it was asked for: it opens as soon as its button has the focus, which comes back to it. */
function OpenedMenu({
  song,
  row,
  look,
  words,
}: {
  song: Song;
  row: Row;
  look: { className: string; 'aria-label': string };
  words: string;
}): ReactNode {
  const [isOpen, open] = useState(false);
  const target = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    target.current?.focus();
    open(true);
  }, []);
  return (
    // Beside its button, never over it: a second click there chooses nothing.
    <Menu position="right-start" middlewares={BESIDE} opened={isOpen} onChange={open}>
      <Menu.Target>
        <PlainButton ref={target} {...look}>
          {words}
        </PlainButton>
      </Menu.Target>
      <Menu.Dropdown>
        <ModeItems song={song} row={row} />
      </Menu.Dropdown>
    </Menu>
  );
}

function ModeItems({ song, row }: { song: Song; row: Row }): ReactNode {
  const { control } = useOpenSong();
  const { chosen } = useViewParts('chosen');
  const { trim } = row.channel;
  const together = channelsOf(song, chosen);
  // Of what is chosen, all; else the channel alone, or with it what a gang links.
  const channels = together.includes(row.channel.key) ? together : [row.channel.key];
  const along = channels.length > 1 ? channels : channelsModedWith(song, row.channel.key);
  const front = controlOf(song, row.control).name.toLowerCase();
  return (
    <>
      {along.length > 1 && <Menu.Label>Of {along.length} channels together</Menu.Label>}
      {MODES.map((one, i) => (
        <Menu.Item
          key={one}
          fw={one === row.channel.mode ? 700 : 400}
          rightSection={<KeyHint keys={String(i + 1)} />}
          onClick={() => control.setModes(channels, one)}
        >
          {MODE_NAMES[one]}
        </Menu.Item>
      ))}
      {song.settings.deskMode !== null && (
        <Text fz="xs" c="dimmed" px="sm" py={4} maw={220}>
          The desk mode stands in for all: this is what the channel gets back.
        </Text>
      )}
      <Menu.Divider role="separator" />
      <Menu.Item rightSection={<KeyHint keys="0" />} onClick={() => control.setTrims(channels, !trim)}>
        {trim ? 'Trim off' : 'Trim: a hand gives an offset'}
      </Menu.Item>
      <Menu.Item
        rightSection={<KeyHint keys="F" />}
        disabled={!waitingTrim(song, row.channel).length}
        onClick={() => control.foldTrim(row.channel.key)}
      >
        Fold the trim that waits
      </Menu.Item>
      <Menu.Divider role="separator" />
      <Menu.Item rightSection={<KeyHint keys="J" />} onClick={() => control.toggleSafe(row.control)}>
        {ownGuards(song, row.control).safe ? `Take ${front} out of safe` : `Make ${front} alone safe`}
      </Menu.Item>
      <Menu.Item rightSection={<KeyHint keys="K" />} onClick={() => control.togglePark(row.control)}>
        {ownGuards(song, row.control).parked ? `Read ${front} again` : `Park ${front}`}
      </Menu.Item>
      <Menu.Item rightSection={<KeyHint keys="Alt+K" />} onClick={() => control.toggleParkChannel(row.channel.key)}>
        {row.channel.parked ? 'Read the channel again' : 'Park the channel'}
      </Menu.Item>
      {kindsOf(song, row).map((kind) => (
        <Menu.Item key={kind} onClick={() => control.toggleSafeKind(row.channel.key, kind)}>
          {row.channel.safe.includes(kind) ? `Kind ${kind}: take out of safe` : `Kind ${kind}: make safe`}
        </Menu.Item>
      ))}
    </>
  );
}

const KeyHint = ({ keys }: { keys: string }): ReactNode => (
  <Text fz="xs" c="dimmed">
    {keys}
  </Text>
);

/** Controls of a channel that trim waits on. */
export const waitingTrim = (song: Song, channel: Channel): string[] =>
  controlsOfChannel(song, channel).flatMap((one) => (song.lanes[one.id]?.trim.length ? [one.name] : []));

/** Kinds of control that a channel has. */
const kindsOf = (song: Song, row: Row): ControlKind[] => [
  ...new Set(controlsOfChannel(song, row.channel).map((one) => one.kind)),
];
