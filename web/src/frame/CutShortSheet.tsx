import { useMemo, type ReactNode } from 'react';
import { Button, Group, Table, Text } from '@mantine/core';
import { meterMap } from '@sure-hand/core/time';
import { cutShortWords } from '../hands/receiptWords.js';
import { settleCutShort } from '../open/cutShort.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';

/** Passes that were cut short, each by itself: what it wrote before its page went away, to be kept or dropped. */
export function CutShortSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const cutShort = useAppSelector((state) => state.song.cutShort);
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  return (
    <Sheet name="Passes that were cut short" onClose={onClose} className="sheet-list">
      {cutShort.length === 0 && (
        <Text fz="sm" c="dimmed">
          None is left: each was kept or dropped.
        </Text>
      )}
      <Table verticalSpacing={3} fz="sm">
        <Table.Tbody>
          {cutShort.map(({ key, receipt }) => {
            const { says, more } = cutShortWords(song, map, receipt);
            return (
              <Table.Tr key={key} data-testid="cut-short">
                <Table.Td>
                  {says} <span className="dimmed">{more}</span>
                </Table.Td>
                <Table.Td>
                  <Group gap={4} wrap="nowrap" justify="flex-end">
                    <Button size="compact-xs" variant="default" onClick={() => settleCutShort(true, key)}>
                      Keep it
                    </Button>
                    <Button size="compact-xs" variant="subtle" color="gray" onClick={() => settleCutShort(false, key)}>
                      Drop it
                    </Button>
                  </Group>
                </Table.Td>
              </Table.Tr>
            );
          })}
        </Table.Tbody>
      </Table>
      <Text fz="xs" c="dimmed">
        Their pages went away before the stop. None of them is in the song yet. Shift+K keeps the first, Shift+D drops
        it.
      </Text>
    </Sheet>
  );
}
