import { useState, type ReactNode } from 'react';
import { ActionIcon, Button, Group, SegmentedControl, Select, Text } from '@mantine/core';
import { IconArrowDown, IconArrowUp, IconTrash, IconWaveSine } from '@tabler/icons-react';
import { nameOfEdit, type Edit } from '@sure-hand/core/edits';
import {
  MOST_INSERTS,
  carriesAudio,
  channelNamed,
  channelOf,
  ownValueAt,
  type Channel,
  type Song,
} from '@sure-hand/core/song';
import {
  EFFECT_CHOICES,
  addedInsert,
  copiedInsert,
  insertCopiedAt,
  insertRows,
  movedInsert,
  settingChanged,
  settingWord,
  settingsChosen,
  withoutInsert,
  type InsertRow,
} from '../hands/inserts.js';
import { useMoment } from '../open/useMoment.js';
import { KeptNumber } from '../parts/KeptNumber.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { askedFor, didSomething, takenInHand } from '../store/viewSlice.js';
import { useTry } from './useTry.js';

/** The inserts of the channel in hand, in their order: added, switched, chosen, moved, copied with their curves or without, taken out. */
export function InsertsSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand } = useViewParts('inHand');
  const channel = (inHand ? channelOf(song, channelNamed(inHand)) : undefined) ?? song.channels[0]!;
  return (
    <Sheet name={`Inserts of ${channel.name}`} onClose={onClose} className="sheet-inserts">
      {carriesAudio(channel) ? (
        <InsertsOf key={channel.key} song={song} channel={channel} />
      ) : (
        <Text fz="sm" c="dimmed">
          {channel.name} is a VCA, which carries no audio: its members have inserts.
        </Text>
      )}
    </Sheet>
  );
}

function InsertsOf({ song, channel }: { song: Song; channel: Channel }): ReactNode {
  const dispatch = useAppDispatch();
  const [wrong, tryIt] = useTry();
  const [copies, setCopies] = useState<Copies>('curves');
  const make = (edit: Edit | null): void => {
    if (edit && tryIt(edit)) dispatch(didSomething(`${nameOfEdit(song, edit, null)}. Undo takes it back.`));
  };
  const rows = insertRows(song, channel);
  const isFull = channel.inserts.length >= MOST_INSERTS;
  return (
    <>
      {rows.length ? (
        <ol className="insert-rows">
          {rows.map((row) => (
            <OneInsert key={row.insert.slot} song={song} channel={channel} row={row} copies={copies} make={make} />
          ))}
        </ol>
      ) : (
        <Text fz="sm" c="dimmed" mb={8}>
          Nothing is inserted yet. Every parameter of what is becomes a lane that is ridden like any other.
        </Text>
      )}
      <Group gap="xs" align="flex-end" justify="space-between">
        <Select
          size="xs"
          w={190}
          label={isFull ? `All ${MOST_INSERTS} places are taken` : 'Insert at the end'}
          placeholder="Choose an effect"
          disabled={isFull}
          value={null}
          data={EFFECT_CHOICES}
          onChange={(effect) => effect && make(addedInsert(channel, effect))}
        />
        {rows.length > 0 && (
          <SegmentedControl
            size="xs"
            aria-label="What a copy brings"
            value={copies}
            data={COPIES}
            onChange={(to) => setCopies(to as Copies)}
          />
        )}
      </Group>
      {wrong && (
        <Text fz="sm" role="alert" className="trouble" mt={4}>
          {wrong}
        </Text>
      )}
    </>
  );
}

/** What a copy of an insert brings: its curves, or only where its parameters are at the line, to rest there. */
type Copies = 'curves' | 'line';
const COPIES: { value: Copies; label: string }[] = [
  { value: 'curves', label: 'Copies with curves' },
  { value: 'line', label: 'Copies as at the line' },
];

const SMALL = { variant: 'subtle', color: 'gray', size: 'sm' } as const;
type RowProps = {
  readonly song: Song;
  readonly channel: Channel;
  readonly row: InsertRow;
  readonly make: (edit: Edit | null) => void;
};

function OneInsert({ song, channel, row, copies, make }: RowProps & { readonly copies: Copies }): ReactNode {
  const { control } = useMoment();
  const dispatch = useAppDispatch();
  const { insert, name, on, first } = row;
  const { slot } = insert;
  const isOn = ownValueAt(song, on, control.position).base >= 0.5;
  return (
    <li className="insert-row" data-testid={`insert-${slot}`}>
      <Group gap={6} wrap="nowrap">
        <Button
          size="compact-xs"
          w={42}
          variant={isOn ? 'filled' : 'default'}
          aria-pressed={isOn}
          aria-label={`${name} on`}
          onClick={() => control.typeValue(on, isOn ? 0 : 1)}
        >
          {isOn ? 'On' : 'Off'}
        </Button>
        <button type="button" className="link insert-name" onClick={() => dispatch(takenInHand(first))}>
          {name}
        </button>
        <ActionIcon
          {...SMALL}
          aria-label={`${name} earlier`}
          disabled={!movedInsert(channel, slot, -1)}
          onClick={() => make(movedInsert(channel, slot, -1))}
        >
          <IconArrowUp size={14} />
        </ActionIcon>
        <ActionIcon
          {...SMALL}
          aria-label={`${name} later`}
          disabled={!movedInsert(channel, slot, 1)}
          onClick={() => make(movedInsert(channel, slot, 1))}
        >
          <IconArrowDown size={14} />
        </ActionIcon>
        <ActionIcon
          {...SMALL}
          aria-label={`Picture of ${name}`}
          onClick={() => {
            dispatch(takenInHand(first));
            dispatch(askedFor({ what: 'effect' }));
          }}
        >
          <IconWaveSine size={14} />
        </ActionIcon>
        <CopyTo song={song} channel={channel} row={row} copies={copies} make={make} />
        <ActionIcon {...SMALL} aria-label={`Take ${name} out`} onClick={() => make(withoutInsert(channel, insert))}>
          <IconTrash size={14} />
        </ActionIcon>
      </Group>
      <Settings song={song} channel={channel} row={row} make={make} />
    </li>
  );
}

/** A copy; where it goes chosen, it is made. */
function CopyTo({ song, channel, row, copies, make }: RowProps & { readonly copies: Copies }): ReactNode {
  const { control } = useMoment();
  const copied = (to: string): Edit =>
    copies === 'curves'
      ? copiedInsert(channel, row.insert, to)
      : insertCopiedAt(song, channel, row.insert, to, control.position);
  return (
    <Select
      size="xs"
      w={130}
      searchable
      aria-label={`Copy ${row.name} ${copies === 'curves' ? 'with its curves' : 'as at the line'} to`}
      placeholder="Copy to…"
      value={null}
      data={song.channels.filter(carriesAudio).map(({ key, name }) => ({ value: key, label: name }))}
      onChange={(to) => to && make(copied(to))}
    />
  );
}

function Settings({ song, channel, row: { insert, name }, make }: RowProps): ReactNode {
  const settings = settingsChosen(insert);
  if (!settings.length) return null;
  return (
    <Group gap={6} mt={4} className="insert-settings">
      {settings.map(({ key, is, value }) => {
        const label = `${name}: ${is.name.toLowerCase()}`;
        const keep = (to: unknown): void => make(settingChanged(channel, insert, key, to));
        const { choice } = is;
        if (choice.how === 'number')
          return <BeatsField key={key} label={label} most={choice.most} value={value} onKeep={keep} />;
        if (choice.how === 'channel')
          return (
            <Select
              key={key}
              size="xs"
              w={170}
              searchable
              aria-label={label}
              allowDeselect={false}
              value={(value as string | null) ?? ''}
              data={[
                { value: '', label: 'Listens to itself' },
                ...song.channels
                  .filter((one) => carriesAudio(one) && one.key !== channel.key)
                  .map((one) => ({ value: one.key, label: `Listens to ${one.name}` })),
              ]}
              onChange={(to) => keep(to || null)}
            />
          );
        const values = choice.how === 'each' ? (value as readonly string[]) : [value as string | number];
        return values.map((one, i) => (
          <Select
            key={`${key} ${i}`}
            size="xs"
            w={110}
            aria-label={choice.how === 'each' ? `${name}: shape of band ${i + 1}` : label}
            allowDeselect={false}
            value={String(one)}
            data={choice.of.map((word) => ({ value: String(word), label: settingWord(word) }))}
            onChange={(to) => {
              const chosen = choice.of.find((word) => String(word) === to)!;
              keep(choice.how === 'each' ? values.map((was, k) => (k === i ? chosen : was)) : chosen);
            }}
          />
        ));
      })}
    </Group>
  );
}

/** A delay has to have some length. */
const LEAST_BEATS = 1 / 64;

/** Quarter notes, kept as the field is left or with Enter; none: by its own time. */
function BeatsField({
  label,
  most,
  value,
  onKeep,
}: {
  label: string;
  most: number;
  value: unknown;
  onKeep: (value: number | null) => void;
}): ReactNode {
  return (
    <KeptNumber
      w={190}
      aria-label={label}
      placeholder="By its time, not in beats"
      suffix=" quarter notes"
      value={value as number | null}
      min={LEAST_BEATS}
      max={most}
      step={0.25}
      decimalScale={4}
      onKeep={onKeep}
      onNone={() => onKeep(null)}
    />
  );
}
