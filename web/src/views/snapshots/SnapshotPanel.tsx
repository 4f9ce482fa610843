import { useMemo, useState, type ReactNode } from 'react';
import { ActionIcon, Button, Group, Menu, Select, Table, Text, TextInput } from '@mantine/core';
import { IconDots } from '@tabler/icons-react';
import {
  channelOf,
  controlOf,
  controlsOf,
  fullName,
  type ChannelKey,
  type ControlKind,
  type Snapshot,
  type Song,
} from '@sure-hand/core/song';
import { comparedValues, isApart, recalledFrom, snapshotOf, type Compared } from '@sure-hand/core/snapshots';
import { meterMap } from '@sure-hand/core/time';
import { differenceWords } from '../../hands/asideWords.js';
import { valuesNow } from '../../hands/placing.js';
import { shortBars } from '../../hands/reachWords.js';
import { filterWith, gridOf, hasCell, recallsCell } from '../../hands/snapshotActs.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { SnapshotDoing } from '../../open/snapshotDoing.js';
import { useMoment } from '../../open/useMoment.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { useAppDispatch, useAppSelector } from '../../store/store.js';
import { comparedWith } from '../../store/viewSlice.js';

const KIND_HEADS: Record<ControlKind, string> = {
  level: 'Level',
  pan: 'Pan',
  mute: 'Mute',
  sends: 'Sends',
  inserts: 'Inserts',
};

/** The snapshot in hand: what it is called, what it recalls, and its values against what is at the line, or another snapshot. */
export function SnapshotPanel({ snapshot }: { snapshot: Snapshot }): ReactNode {
  const open = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const doing = useMemo(() => new SnapshotDoing(open), [open]);
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const gone = Object.keys(snapshot.values).filter((id) => !controlsOf(song).has(id)).length;
  return (
    <section className="snapshot-panel" aria-label={`Snapshot ${snapshot.name}`}>
      <Words snapshot={snapshot} doing={doing} />
      <Text fz="xs" c="dimmed" mb={8}>
        Taken at {shortBars(map, snapshot.t)}.
        {gone > 0 && ` ${gone} of its controls ${gone === 1 ? 'is' : 'are'} not in the song any more.`}
      </Text>
      <FilterGrid song={song} snapshot={snapshot} doing={doing} />
      <Values song={song} snapshot={snapshot} doing={doing} />
    </section>
  );
}

type Props = { readonly snapshot: Snapshot; readonly doing: SnapshotDoing };

/** Its name and note, kept as they are typed, and what is done with it as a whole. */
function Words({ snapshot, doing }: Props): ReactNode {
  const field = (what: 'name' | 'note', placeholder: string): ReactNode => (
    <TextInput
      key={`${what} ${snapshot[what]}`}
      size="xs"
      className={`snapshot-${what}`}
      aria-label={what === 'name' ? 'Name of the snapshot' : 'Note on the snapshot'}
      placeholder={placeholder}
      maxLength={what === 'name' ? 200 : 4000}
      defaultValue={snapshot[what]}
      onBlur={(event) => {
        const typed = event.currentTarget.value.trim();
        if (typed !== snapshot[what] && (typed || what === 'note'))
          doing.change(snapshot, { ...snapshot, [what]: typed });
      }}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
  return (
    <Group gap={6} wrap="nowrap" mb={4}>
      {field('name', 'Name it')}
      {field('note', 'Note')}
      <Menu position="bottom-end">
        <Menu.Target>
          <ActionIcon variant="subtle" color="gray" aria-label={`What can be done with ${snapshot.name}`}>
            <IconDots size={16} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => doing.update(snapshot.key)}>Update from here (Shift+Alt+N)</Menu.Item>
          <Menu.Item onClick={() => doing.duplicate(snapshot)}>Duplicate</Menu.Item>
          <Menu.Divider role="separator" />
          <Menu.Item onClick={() => doing.remove(snapshot)}>Remove</Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </Group>
  );
}

/** What it recalls: channels down, kinds across; a name turns its whole row or column on or off. */
function FilterGrid({ song, snapshot, doing }: Props & { readonly song: Song }): ReactNode {
  const { channels, kinds } = gridOf(song, snapshot);
  const cellsOf = (keys: readonly ChannelKey[], of: readonly ControlKind[]) =>
    keys
      .flatMap((channel) => of.map((kind) => ({ channel, kind })))
      .filter(({ channel, kind }) => hasCell(snapshot, channel, kind));
  const set = (keys: readonly ChannelKey[], of: readonly ControlKind[]): void => {
    const cells = cellsOf(keys, of);
    const isOn = !cells.every(({ channel, kind }) => recallsCell(snapshot, channel, kind));
    doing.change(snapshot, { ...snapshot, filter: filterWith(snapshot, cells, isOn) });
  };
  return (
    <div className="filter-grid">
      <Table withRowBorders={false} verticalSpacing={1} horizontalSpacing={4} fz="xs">
        <Table.Thead>
          <Table.Tr>
            <Table.Th>
              <PlainButton className="link" onClick={() => set(channels, kinds)}>
                What it recalls
              </PlainButton>
            </Table.Th>
            {kinds.map((kind) => (
              <Table.Th key={kind} className="filter-kind">
                <PlainButton className="link" onClick={() => set(channels, [kind])}>
                  {KIND_HEADS[kind]}
                </PlainButton>
              </Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {channels.map((key) => (
            <FilterRow
              key={key}
              name={channelOf(song, key)!.name}
              cells={kinds.map((kind) => ({
                kind,
                isOn: hasCell(snapshot, key, kind) ? recallsCell(snapshot, key, kind) : null,
              }))}
              onSet={(of) => set([key], of ? [of] : kinds)}
            />
          ))}
        </Table.Tbody>
      </Table>
    </div>
  );
}

/** A channel's cells; one of a kind that the snapshot has nothing of is empty. */
function FilterRow({
  name,
  cells,
  onSet,
}: {
  name: string;
  cells: readonly { readonly kind: ControlKind; readonly isOn: boolean | null }[];
  onSet: (kind: ControlKind | null) => void;
}): ReactNode {
  return (
    <Table.Tr>
      <Table.Td>
        <PlainButton className="link" onClick={() => onSet(null)}>
          {name}
        </PlainButton>
      </Table.Td>
      {cells.map(({ kind, isOn }) => (
        <Table.Td key={kind} className="filter-kind">
          {isOn !== null && (
            <PlainButton
              className="filter-cell"
              role="checkbox"
              aria-checked={isOn}
              aria-label={`${name} ${KIND_HEADS[kind].toLowerCase()}`}
              onClick={() => onSet(kind)}
            />
          )}
        </Table.Td>
      ))}
    </Table.Tr>
  );
}

/** How many rows are shown before the rest is asked for. */
const SHOWN = 40;

/** Its values against what is at the line, or another snapshot's, the furthest apart first; each can be used by itself. */
function Values({ song, snapshot, doing }: Props & { readonly song: Song }): ReactNode {
  const { session, control } = useMoment();
  const dispatch = useAppDispatch();
  const againstKey = useAppSelector((state) => state.view.against);
  const against = snapshotOf(song, againstKey ?? '') ?? null;
  const [isAll, setAll] = useState(false);
  const own = recalledFrom(song, snapshot).values;
  const t = control.position;
  const other = against ? recalledFrom(song, against).values : valuesNow(session.recorder, Object.keys(own), t);
  const rows = comparedValues(song, other, own);
  const apart = rows.filter(isApart);
  const shown = isAll ? rows : apart.slice(0, SHOWN);
  const others = song.snapshots.filter(({ key }) => key !== snapshot.key);
  return (
    <>
      <Group gap={8} mt={10} mb={4} wrap="nowrap" justify="space-between">
        <Text fz="sm" fw={700}>
          {apart.length} of {rows.length} differ
        </Text>
        <Select
          size="xs"
          w={190}
          aria-label="Compared with"
          allowDeselect={false}
          value={against?.key ?? ''}
          data={[
            { value: '', label: 'from what is at the line' },
            ...others.map(({ key, name }) => ({ value: key, label: `from ${name}` })),
          ]}
          onChange={(key) => dispatch(comparedWith(key || null))}
        />
      </Group>
      <div className="snapshot-values">
        <Table verticalSpacing={2} horizontalSpacing={6} fz="xs" stickyHeader>
          <ValueHeads against={against?.name ?? 'Now'} />
          <Table.Tbody>
            {shown.map((row) => (
              <ValueRow key={row.control} song={song} row={row} onUse={() => doing.use(snapshot.key, row.control)} />
            ))}
          </Table.Tbody>
        </Table>
        {!shown.length && (
          <Text fz="xs" c="dimmed" p={6}>
            {against ? 'Both say the same.' : 'All of it is so at the line.'}
          </Text>
        )}
      </div>
      <Button size="compact-xs" variant="subtle" color="gray" mt={4} onClick={() => setAll((now) => !now)}>
        {isAll ? 'Only what differs' : `All ${rows.length}`}
      </Button>
    </>
  );
}

const ValueHeads = ({ against }: { against: string }): ReactNode => (
  <Table.Thead>
    <Table.Tr>
      <Table.Th>Control</Table.Th>
      <Table.Th ta="right">{against}</Table.Th>
      <Table.Th ta="right">Snapshot</Table.Th>
      <Table.Th ta="right">Difference</Table.Th>
      <Table.Th />
    </Table.Tr>
  </Table.Thead>
);

function ValueRow({ song, row, onUse }: { song: Song; row: Compared; onUse: () => void }): ReactNode {
  const { control: id, a, b } = row;
  const { scale } = controlOf(song, id);
  const print = (v: number | null): string => (v === null ? '–' : scale.print(v));
  return (
    <Table.Tr data-testid={`value-${id}`}>
      <Table.Td>{fullName(song, id)}</Table.Td>
      <Table.Td className="figures">{print(a)}</Table.Td>
      <Table.Td className="figures">{print(b)}</Table.Td>
      <Table.Td className="figures is-difference">
        {a === null || b === null ? 'only in one' : differenceWords({ song }, id, a, b)}
      </Table.Td>
      <Table.Td>
        {b !== null && (
          <Button size="compact-xs" variant="default" aria-label={`Use ${fullName(song, id)}`} onClick={onUse}>
            Use
          </Button>
        )}
      </Table.Td>
    </Table.Tr>
  );
}
