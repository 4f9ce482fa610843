import { useDeferredValue, useMemo, useState, type ReactNode } from 'react';
import { Button, Chip, Group, Select, Table, Text, TextInput } from '@mantine/core';
import type { Range } from '@sure-hand/core/curve';
import { controlOf, fullName, type ControlId, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { parseValue } from '@sure-hand/core/units';
import {
  PLACE_SCOPES,
  PLACE_SCOPE_NAMES,
  leftAloneWords,
  placesWords,
  type PlaceScope,
  type Placing,
} from '../hands/placing.js';
import { NumberField } from '../parts/NumberField.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';
import { USUAL, countedWords, usePlacing, useValues, useWhere, type Asked, type Manner } from './usePlacing.js';

const NOWHERE: readonly Range[] = [];

/** Places values on the range or on sections, or ramps to them: what it would change is counted, listed, drawn and heard before it is done. */
export function PlaceSheet({
  how,
  snapshot,
  ranges: given = NOWHERE,
  onClose,
}: {
  readonly how: 'place' | 'ramp';
  readonly snapshot?: string;
  readonly ranges?: readonly Range[];
  readonly onClose: () => void;
}): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const { scope, setScope, counts, values, type, what } = useValues(snapshot);
  const where = useWhere(song, map, snapshot, given);
  const [manner, setManner] = useState<Manner>(() => ({ ...USUAL, edge: song.settings.edgeTime }));
  const asked: Asked = { song, map, how, what, values, ranges: where.ranges, manner };
  const { would, wrong, keep } = usePlacing(asked, onClose);
  return (
    <Sheet name={how === 'place' ? 'Place values' : 'Ramp'} className="sheet-place" onClose={onClose} onEnter={keep}>
      <Group gap="sm" align="flex-end" wrap="nowrap" mb={8}>
        {snapshot === undefined && <ScopeSelect scope={scope} counts={counts} onScope={setScope} />}
        {how === 'place' ? (
          <EdgeField manner={manner} onManner={setManner} />
        ) : (
          <RampFields manner={manner} onManner={setManner} />
        )}
        <Button size="xs" onClick={keep} disabled={!would?.rows.length}>
          {how === 'place' ? 'Place' : 'Ramp'} (Enter)
        </Button>
      </Group>
      <Chip.Group multiple value={[...where.chosen]} onChange={where.choose}>
        <Group gap={6} role="group" aria-label="Where" className="place-spots">
          {where.spots.map(({ id, label }) => (
            <Chip key={id} value={id} size="xs" variant="outline">
              {label}
            </Chip>
          ))}
        </Group>
      </Chip.Group>
      <Text fz="sm" mt={8} role="status" data-testid="place-says">
        {wrong ?? placeSays(asked, would)}
      </Text>
      {would && would.rows.length > 0 && (
        <PlacedRows song={song} would={would} onType={scope === 'hand' && snapshot === undefined ? type : null} />
      )}
    </Sheet>
  );
}

/** What it will change, before it does. */
function placeSays({ song, map, how, what, ranges }: Asked, would: Placing | null): string {
  if (!ranges.length) return 'Choose where it goes: the range, or one or more sections.';
  if (!would) return 'There is nothing to place: that scope has no controls now.';
  const left = leftAloneWords(song, would);
  if (!would.rows.length) return `Nothing would change. ${left}`;
  const ids = would.rows.map((row) => row.control);
  const act = how === 'place' ? 'Places' : 'Ramps';
  return `${act} ${countedWords(song, what, ids)} on ${placesWords(song, map, ranges)}. ${left}`;
}

function ScopeSelect({
  scope,
  counts,
  onScope,
}: {
  scope: PlaceScope;
  counts: Record<PlaceScope, number>;
  onScope: (scope: PlaceScope) => void;
}): ReactNode {
  return (
    <Select
      size="xs"
      w={200}
      label="Values of"
      allowDeselect={false}
      value={scope}
      data={PLACE_SCOPES.map((value) => ({
        value,
        label: `${PLACE_SCOPE_NAMES[value]} (${counts[value]})`,
        disabled: !counts[value],
      }))}
      onChange={(to) => to && onScope(to as PlaceScope)}
    />
  );
}

type MannerProps = { readonly manner: Manner; readonly onManner: (manner: Manner) => void };

function EdgeField({ manner, onManner }: MannerProps): ReactNode {
  return (
    <NumberField
      w={110}
      label="Edges, s"
      value={manner.edge}
      min={0}
      max={2}
      step={0.05}
      decimalScale={3}
      onValue={(edge) => onManner({ ...manner, edge })}
    />
  );
}

function RampFields({ manner, onManner }: MannerProps): ReactNode {
  return (
    <>
      <Select
        size="xs"
        w={130}
        label="Way"
        allowDeselect={false}
        value={manner.towards}
        data={[
          { value: 'value', label: 'To the values' },
          { value: 'old', label: 'From the values' },
        ]}
        onChange={(to) => to && onManner({ ...manner, towards: to as Manner['towards'] })}
      />
      <Select
        size="xs"
        w={110}
        label="Shape"
        allowDeselect={false}
        value={manner.shape}
        data={[
          { value: 'line', label: 'Straight' },
          { value: 's', label: 'S' },
          { value: 'bend', label: 'Bent' },
        ]}
        onChange={(to) => to && onManner({ ...manner, shape: to as Manner['shape'] })}
      />
      {manner.shape !== 'line' && (
        <NumberField
          w={76}
          label="Bend"
          value={manner.bend}
          min={-1}
          max={1}
          step={0.1}
          decimalScale={2}
          onValue={(bend) => onManner({ ...manner, bend })}
        />
      )}
      <Select
        size="xs"
        w={168}
        label="After it"
        allowDeselect={false}
        disabled={manner.towards === 'old'}
        value={manner.towards === 'old' ? 'resume' : manner.after}
        data={[
          { value: 'resume', label: 'The curve goes on' },
          { value: 'next', label: 'Held to its next point' },
          { value: 'end', label: 'Held to the song’s end' },
        ]}
        onChange={(to) => to && onManner({ ...manner, after: to as Manner['after'] })}
      />
    </>
  );
}

/** So many are listed one by one, the furthest apart first; how many more there are is said below them. */
const SHOWN = 40;
const NONE: Placing['rows'] = [];

/** What changes, control by control; where it is the one in hand, its value can be typed. */
function PlacedRows({
  song,
  would,
  onType,
}: {
  song: Song;
  would: Placing;
  onType: ((id: ControlId, value: number) => void) | null;
}): ReactNode {
  // What is heard and what is said come first, the list right after.
  const rows = useDeferredValue(would.rows, NONE);
  return (
    <div className="list-rows place-rows">
      <Table verticalSpacing={2} fz="sm">
        <Table.Tbody>
          {rows.slice(0, SHOWN).map(({ control: id, from, to }) => {
            const { scale } = controlOf(song, id);
            return (
              <Table.Tr key={id} data-testid={`places-${id}`}>
                <Table.Td>{fullName(song, id)}</Table.Td>
                <Table.Td ta="right" className="figures">
                  {scale.print(from)}
                </Table.Td>
                <Table.Td ta="right" className="figures aside-held">
                  →{' '}
                  {onType ? (
                    <TypedValue song={song} id={id} value={to} onValue={(v) => onType(id, v)} />
                  ) : (
                    scale.print(to)
                  )}
                </Table.Td>
              </Table.Tr>
            );
          })}
        </Table.Tbody>
      </Table>
      {would.rows.length > SHOWN && (
        <Text fz="xs" c="dimmed" p={6}>
          And {would.rows.length - SHOWN} more, which change less.
        </Text>
      )}
    </div>
  );
}

/** A control's value, to be typed in its unit. */
function TypedValue({
  song,
  id,
  value,
  onValue,
}: {
  song: Song;
  id: ControlId;
  value: number;
  onValue: (value: number) => void;
}): ReactNode {
  const { scale } = controlOf(song, id);
  const [text, setText] = useState<string | null>(null);
  const read = text === null ? null : parseValue(scale, text);
  return (
    <TextInput
      size="xs"
      w={110}
      display="inline-block"
      aria-label={`Value of ${fullName(song, id)}`}
      value={text ?? scale.print(value)}
      error={read && !read.ok ? read.sentence : null}
      onChange={(event) => setText(event.currentTarget.value)}
      onBlur={() => {
        if (read?.ok) onValue(read.value);
        setText(null);
      }}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' || !read?.ok) return;
        // The first Enter takes the value over, the next one places it.
        event.stopPropagation();
        onValue(read.value);
        setText(null);
      }}
    />
  );
}
