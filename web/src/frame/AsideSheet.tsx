import type { ReactNode } from 'react';
import { Button, Group, Table, Text } from '@mantine/core';
import { controlOf, fullName } from '@sure-hand/core/song';
import { asideCount, asideRows, type AsideRow } from '../hands/asideWords.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useMoment } from '../open/useMoment.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch } from '../store/store.js';
import { askedFor, didSomething, takenInHand } from '../store/viewSlice.js';

/** All that is held aside, with how far each is from its curve at the line: put back, compared, placed. */
export function AsideSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { session, control, tryout } = useMoment();
  const { recorder } = session;
  const dispatch = useAppDispatch();
  const rows = asideRows(recorder, control.position);
  const { isOn, isBefore } = recorder.tryout;
  const putBackAll = (): void => {
    const { length } = tryout.drop();
    dispatch(
      didSomething(
        `${length} put back on ${length === 1 ? 'its curve' : 'their curves'}. Alt+Shift+Y holds them aside again.`,
      ),
    );
  };
  return (
    <Sheet
      name={rows.length ? asideCount(rows.length) : 'Nothing is held aside'}
      onClose={onClose}
      className="sheet-aside"
    >
      <Group gap="xs" mb={8}>
        <Button size="xs" variant={isOn ? 'filled' : 'default'} aria-pressed={isOn} onClick={() => tryout.toggle()}>
          Tryout {isOn ? 'on' : 'off'} (Y)
        </Button>
        <Button size="xs" variant="default" disabled={!rows.length} onClick={() => void tryout.hearOther()}>
          {isBefore ? 'Hear what is held (B)' : 'Hear the curves (B)'}
        </Button>
        <Button size="xs" variant="default" disabled={!rows.length} onClick={putBackAll}>
          Put all back
        </Button>
        <Button size="xs" disabled={!rows.length} onClick={() => dispatch(askedFor({ what: 'place', how: 'place' }))}>
          Place… (P)
        </Button>
      </Group>
      {rows.length ? (
        <AsideRows rows={rows} />
      ) : (
        <Text fz="sm" c="dimmed" maw={460}>
          With the tryout on, what you touch is held at your value across stops and laps. Nothing of it is written until
          it is placed; everything else follows its curves.
        </Text>
      )}
    </Sheet>
  );
}

function AsideRows({ rows }: { rows: readonly AsideRow[] }): ReactNode {
  const { session, tryout } = useOpenSong();
  const { song } = session.recorder;
  const dispatch = useAppDispatch();
  return (
    <div className="list-rows">
      <Table verticalSpacing={3} fz="sm">
        <Table.Thead>
          <Table.Tr>
            <Table.Th>Control</Table.Th>
            <Table.Th ta="right">Held at</Table.Th>
            <Table.Th ta="right">Curve here</Table.Th>
            <Table.Th ta="right">Difference</Table.Th>
            <Table.Th />
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {rows.map(({ control: id, held, curve, difference }) => {
            const { scale } = controlOf(song, id);
            return (
              <Table.Tr key={id} data-testid={`aside-${id}`}>
                <Table.Td>
                  <button type="button" className="link" onClick={() => dispatch(takenInHand(id))}>
                    {fullName(song, id)}
                  </button>
                </Table.Td>
                <Table.Td className="figures aside-held">{scale.print(held)}</Table.Td>
                <Table.Td className="figures">{scale.print(curve)}</Table.Td>
                <Table.Td className="figures">{difference}</Table.Td>
                <Table.Td ta="right">
                  <Button size="compact-xs" variant="default" onClick={() => tryout.drop([id])}>
                    Put back
                  </Button>
                </Table.Td>
              </Table.Tr>
            );
          })}
        </Table.Tbody>
      </Table>
    </div>
  );
}
