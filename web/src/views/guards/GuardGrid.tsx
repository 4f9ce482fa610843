import type { ReactNode } from 'react';
import { Menu } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { remedyFor } from '@sure-hand/core/pass';
import { MODES, controlId, type Channel, type ChannelKey, type Mode, type Song } from '@sure-hand/core/song';
import {
  COLUMN_NAMES,
  SWITCH_COLUMNS,
  canSet,
  guardedControls,
  isCellOn,
  nextPlayWords,
  type GuardCell,
  type NextPlay,
  type SwitchCell,
} from '../../hands/guardCells.js';
import { channelsOf } from '../../hands/families.js';
import { MODE_NAMES } from '../../hands/laneFilter.js';
import { remedyWords } from '../../hands/reasonWords.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { lanesChosen, takenInHand } from '../../store/viewSlice.js';
import { cellId, useCells, type CellHand } from './useCells.js';
import { ModeMenu } from '../ride/ModeMenu.js';

type Families = readonly (readonly [string, readonly Channel[]])[];

/** Channels down by family; a drag over cells, or Shift with the arrows, sets all between. */
export function GuardGrid({
  song,
  families,
  next,
}: {
  song: Song;
  families: Families;
  next: ReadonlyMap<ChannelKey, NextPlay>;
}): ReactNode {
  const { chosen } = useViewParts('chosen');
  const dispatch = useAppDispatch();
  const rows = families.flatMap(([, channels]) => channels.map(({ key }) => key));
  const together = new Set(channelsOf(song, chosen));
  const hand = useCells(song, rows, together);
  const choose = (channels: readonly ChannelKey[]): void => {
    dispatch(lanesChosen(channels.map((key) => controlId(key, 'level'))));
    if (channels[0]) dispatch(takenInHand(controlId(channels[0], 'level')));
  };
  return (
    <div className="guard-scroll">
      <table className="guard-grid" aria-label="Guards">
        <GuardHeads />
        {families.map(([family, channels]) => (
          <tbody key={family}>
            <FamilyHead
              family={family}
              song={song}
              channels={channels}
              onChoose={() => choose(channels.map(({ key }) => key))}
              hand={hand}
            />
            {channels.map((channel) => (
              <GuardRow
                key={channel.key}
                song={song}
                channel={channel}
                isChosen={together.has(channel.key)}
                next={next.get(channel.key)}
                hand={hand}
                onChoose={() => choose(channel.kind === 'vca' ? [...channel.members] : [channel.key])}
              />
            ))}
          </tbody>
        ))}
      </table>
    </div>
  );
}

/** Kinds stand together under what is set of them: safe. */
const GuardHeads = (): ReactNode => (
  <thead>
    <tr>
      <th scope="col">Channel</th>
      <th scope="col">Mode</th>
      {SWITCH_COLUMNS.map((column) => {
        const isKind = column !== 'trim' && column !== 'parked';
        return (
          <th key={column} scope="col" className={isKind ? 'guard-column is-kind' : 'guard-column'}>
            {isKind && <span className="guard-safe">{column === 'mute' ? 'safe' : ''}</span>}
            {COLUMN_NAMES[column]}
          </th>
        );
      })}
      <th scope="col">Single controls</th>
      <th scope="col">The next play writes</th>
    </tr>
  </thead>
);

/** A family’s name chooses its channels; its mode and its cells set all of them. */
function FamilyHead({
  family,
  song,
  channels,
  onChoose,
  hand,
}: {
  family: string;
  song: Song;
  channels: readonly Channel[];
  onChoose: () => void;
  hand: CellHand;
}): ReactNode {
  const keys = channels.map(({ key }) => key);
  return (
    <tr className="guard-family">
      <th scope="rowgroup">
        <PlainButton className="link" onClick={onChoose} title={`${family}: its channels are chosen`}>
          <span className="guard-name">{family}</span> <span className="guard-count">{channels.length}</span>
        </PlainButton>
      </th>
      <td>
        <FamilyMode family={family} onSet={(mode) => hand.setModes(keys, mode)} />
      </td>
      {SWITCH_COLUMNS.map((column) => {
        const cells = keys.map((channel) => ({ channel, column })).filter((cell) => canSet(song, cell));
        return (
          <td key={column} className="guard-column">
            {cells.length > 0 && (
              <PlainButton
                className="guard-all"
                aria-label={`${COLUMN_NAMES[column]} of all ${family}`}
                onClick={() => hand.setAll(cells)}
              >
                all
              </PlainButton>
            )}
          </td>
        );
      })}
      <td colSpan={2} />
    </tr>
  );
}

/** One mode for all of a family. */
const FamilyMode = ({ family, onSet }: { family: string; onSet: (mode: Mode) => void }): ReactNode => (
  <Menu position="bottom-start">
    <Menu.Target>
      <PlainButton className="guard-all" aria-label={`Mode of all ${family}`}>
        all
      </PlainButton>
    </Menu.Target>
    <Menu.Dropdown>
      {MODES.map((mode) => (
        <Menu.Item key={mode} onClick={() => onSet(mode)}>
          {MODE_NAMES[mode]}
        </Menu.Item>
      ))}
    </Menu.Dropdown>
  </Menu>
);

function GuardRow({
  song,
  channel,
  isChosen,
  next,
  hand,
  onChoose,
}: {
  song: Song;
  channel: Channel;
  isChosen: boolean;
  next: NextPlay | undefined;
  hand: CellHand;
  onChoose: () => void;
}): ReactNode {
  const row = { channel, control: controlId(channel.key, 'level') };
  const mode = { channel: channel.key, column: 'mode' } as const;
  return (
    <tr className={isChosen ? 'is-chosen' : ''} data-testid={`guards-${channel.key}`}>
      <th scope="row">
        <PlainButton
          className="link guard-name"
          onClick={onChoose}
          title={channel.kind === 'vca' ? `${channel.name}: its members are chosen` : channel.name}
        >
          {channel.name}
        </PlainButton>
      </th>
      <td
        id={cellId(mode)}
        data-keeps="up down left right shift+up shift+down shift+left shift+right enter 1 2 3 4 5"
        className={isHeldIn(hand, mode) ? 'guard-mode is-held' : 'guard-mode'}
        onPointerDown={(event) => hand.begin(mode, event)}
        onPointerEnter={() => hand.over(mode)}
        onKeyDown={(event) => hand.key(mode, event)}
      >
        <ModeMenu song={song} row={row} />
      </td>
      {SWITCH_COLUMNS.map((column) => (
        <Cell key={column} song={song} cell={{ channel: channel.key, column }} hand={hand} name={channel.name} />
      ))}
      <td>
        <SingleControls song={song} channel={channel} />
      </td>
      <td className="guard-next">
        <NextPlayCell song={song} channel={channel} next={next} />
      </td>
    </tr>
  );
}

const isHeldIn = ({ held }: CellHand, { channel, column }: GuardCell): boolean =>
  held.some((one) => one.channel === channel && one.column === column);

function Cell({ song, cell, hand, name }: { song: Song; cell: SwitchCell; hand: CellHand; name: string }): ReactNode {
  if (!canSet(song, cell)) return <td className="guard-column" />;
  const isOn = isCellOn(song, cell);
  const what =
    cell.column === 'trim'
      ? 'trim'
      : cell.column === 'parked'
        ? 'parked'
        : `${COLUMN_NAMES[cell.column].toLowerCase()} safe`;
  return (
    <td className={isHeldIn(hand, cell) ? 'guard-column is-held' : 'guard-column'}>
      <button
        type="button"
        id={cellId(cell)}
        data-keeps="up down left right shift+up shift+down shift+left shift+right enter"
        className={`plain guard-cell guard-${cell.column === 'trim' || cell.column === 'parked' ? cell.column : 'kind'}`}
        aria-pressed={isOn}
        aria-label={`${name}: ${what}`}
        onPointerDown={(event) => hand.begin(cell, event)}
        onPointerEnter={() => hand.over(cell)}
        onKeyDown={(event) => hand.key(cell, event)}
        onClick={(event) => hand.press(cell, event)}
      />
    </td>
  );
}

/** Controls of a channel that are guarded by themselves, each freed by a click. */
function SingleControls({ song, channel }: { song: Song; channel: Channel }): ReactNode {
  const { control } = useOpenSong();
  return guardedControls(song, channel).map(({ id, name, safe, parked }) => (
    <span key={id} className="guard-single">
      {name} {[safe ? 'safe' : '', parked ? 'parked' : ''].filter(Boolean).join(' and ')}
      <PlainButton
        aria-label={`Free ${channel.name} ${name}`}
        onClick={() => {
          if (safe) control.toggleSafe(id);
          if (parked) control.togglePark(id);
        }}
      >
        <IconX size={12} />
      </PlainButton>
    </span>
  ));
}

/** What the next play does with a channel, and the act that lets it be written where it is not. */
function NextPlayCell({
  song,
  channel,
  next,
}: {
  song: Song;
  channel: Channel;
  next: NextPlay | undefined;
}): ReactNode {
  const { control } = useOpenSong();
  if (!next) return null;
  const first = next.wont.find(({ reason }) => reason !== null);
  const isNothing = !next.writes.length && !next.touched.length;
  const remedy = isNothing && first ? remedyFor(song, first.control, first.reason!) : null;
  return (
    <>
      <span className={next.writes.length ? 'is-written' : ''}>{nextPlayWords(song, channel, next)}</span>
      {remedy && (
        <PlainButton className="guard-remedy" title={remedyWords(song, remedy)} onClick={() => control.remedy(remedy)}>
          {remedyWords(song, remedy)}
        </PlainButton>
      )}
    </>
  );
}
