import { useRef, type ReactNode } from 'react';
import { Button, Group, Select, Text } from '@mantine/core';
import {
  channelNamed,
  channelOf,
  controlOf,
  controlsOf,
  gateThatIsOff,
  settingsOf,
  type Song,
} from '@sure-hand/core/song';
import { heardCap } from '../hands/heardCap.js';
import { insertNamed, insertRows, type InsertRow } from '../hands/inserts.js';
import { useMoment } from '../open/useMoment.js';
import { PlainButton } from '../parts/PlainButton.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { askedFor, takenInHand, typingSet } from '../store/viewSlice.js';
import { EffectCanvas } from '../views/effects/EffectCanvas.js';
import { paramId, paramsOf, type InsertOf } from '../views/effects/effectNow.js';
import { shapeOf } from '../views/effects/effectShapes.js';

const PICTURE = { width: 560, height: 230 } as const;

/** The picture of the insert in hand, ridden by its caps, and all its numbers. It stays while hands go elsewhere in the channel. */
export function EffectSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand } = useViewParts('inHand');
  const last = useRef<string | null>(null);
  const channel = (inHand ? channelOf(song, channelNamed(inHand)) : undefined) ?? song.channels[0]!;
  const rows = insertRows(song, channel);
  const named = insertNamed(inHand);
  if (named && named.channel === channel.key) last.current = named.slot;
  const row = rows.find(({ insert }) => insert.slot === last.current) ?? rows[0];
  return (
    <Sheet
      name={row ? `${row.name} of ${channel.name}` : `Inserts of ${channel.name}`}
      onClose={onClose}
      className="sheet-effect"
    >
      {row ? (
        <OneEffect key={`${channel.key} ${row.insert.slot}`} song={song} rows={rows} row={row} channel={channel.key} />
      ) : (
        <NoInsert name={channel.name} />
      )}
    </Sheet>
  );
}

function NoInsert({ name }: { name: string }): ReactNode {
  const dispatch = useAppDispatch();
  return (
    <>
      <Text fz="sm" mb={8}>
        {name} has no insert, so there is no picture to ride.
      </Text>
      <Button size="xs" onClick={() => dispatch(askedFor({ what: 'inserts' }))}>
        Insert something…
      </Button>
    </>
  );
}

type OneProps = {
  readonly song: Song;
  readonly channel: string;
  readonly rows: readonly InsertRow[];
  readonly row: InsertRow;
};

function OneEffect({ song, channel, rows, row }: OneProps): ReactNode {
  const dispatch = useAppDispatch();
  const of: InsertOf = { channel, insert: row.insert };
  const shape = shapeOf(row.insert.effect, settingsOf(row.insert));
  return (
    <>
      {shape && <EffectCanvas of={of} shape={shape} {...PICTURE} />}
      <Numbers song={song} of={of} name={row.name} />
      <Group justify="space-between" mt={6} wrap="nowrap" align="center">
        <OnButton of={of} row={row} />
        <Text fz="xs" c="dimmed" className="effect-says">
          {shape?.says}
        </Text>
        {rows.length > 1 && (
          <Select
            size="xs"
            w={140}
            aria-label="Another insert of the channel"
            allowDeselect={false}
            value={row.insert.slot}
            data={rows.map(({ insert, name }) => ({ value: insert.slot, label: name }))}
            onChange={(slot) => {
              const to = rows.find(({ insert }) => insert.slot === slot);
              if (to) dispatch(takenInHand(to.first));
            }}
          />
        )}
      </Group>
    </>
  );
}

/** Its switch, as it is at the line. */
function OnButton({ of, row: { on, name, first } }: { of: InsertOf; row: InsertRow }): ReactNode {
  const { session, control } = useMoment();
  if (!controlsOf(session.heardSong).has(first)) return null;
  const isOff = gateThatIsOff(session.heardSong, first, control.position) !== null;
  return (
    <Button
      size="compact-xs"
      w={42}
      variant={isOff ? 'default' : 'filled'}
      aria-pressed={!isOff}
      aria-label={`${name} of ${of.channel} on`}
      onClick={() => control.typeValue(on, isOff ? 1 : 0)}
    >
      {isOff ? 'Off' : 'On'}
    </Button>
  );
}

/** Every parameter with its number: taken in hand by a click, and typed. */
function Numbers({ song, of, name }: { song: Song; of: InsertOf; name: string }): ReactNode {
  const { session, control } = useMoment();
  const { inHand } = useViewParts('inHand');
  const dispatch = useAppDispatch();
  const { recorder, heardSong } = session;
  const params = paramsOf(of).filter(
    (param) => controlsOf(heardSong).has(paramId(of, param)) && controlsOf(recorder.song).has(paramId(of, param)),
  );
  if (!params.length) return null;
  return (
    <div className={params.length > 8 ? 'effect-numbers is-many' : 'effect-numbers'}>
      {params.map((param) => {
        const id = paramId(of, param);
        const { scale, name: full } = controlOf(song, id);
        const value = heardCap(recorder, heardSong, id, control.position);
        const isWriting = recorder.roll?.takes.some((take) => take.control === id && take.isOpen) ?? false;
        return (
          <PlainButton
            key={param}
            className={`effect-number${id === inHand ? ' is-in-hand' : ''}${isWriting ? ' is-writing' : ''}`}
            aria-label={`${full}: ${scale.print(value)}. Type it`}
            onClick={() => {
              dispatch(takenInHand(id));
              dispatch(typingSet(true));
            }}
          >
            <span>{full.slice(name.length + 1)}</span>
            <b>{recorder.layerOf(id) === 'trim' ? `trim ${value.toFixed(1)}` : scale.print(value)}</b>
          </PlainButton>
        );
      })}
    </div>
  );
}
