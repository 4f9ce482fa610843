import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, SegmentedControl, Table, Text } from '@mantine/core';
import { remedyFor, standings, type Remedy, type Standing } from '@sure-hand/core/pass';
import { type LaneReceipt } from '@sure-hand/core/edits';
import { channelOf, controlOf, type Song } from '@sure-hand/core/song';
import { meterMap, type MeterMap } from '@sure-hand/core/time';
import { counted } from '../hands/countWords.js';
import { shortBars, standingWords } from '../hands/reachWords.js';
import { layerName, remedyWords, wasRefused, whyInShort } from '../hands/reasonWords.js';
import { closeWords } from '../hands/receiptWords.js';
import { ReceiptActs } from './ReceiptActs.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { useMoment } from '../open/useMoment.js';
import { takenInHand, type LastPass } from '../store/viewSlice.js';

/** What is being written stands first, what waits for a touch last. */
const ORDER: Record<Standing['stands'], number> = { writing: 0, returning: 1, play: 2, aside: 3, touched: 4, wont: 5 };

type Show = 'does' | 'wont' | 'channel' | 'receipt';

/** The whole list behind the hand bar's sentence: before play what it will write, while it rolls what it does, after it what it did. */
export function PassListSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { session, control } = useMoment();
  const song = useAppSelector((state) => state.song.song)!;
  const { pass, inHand } = useViewParts('pass', 'inHand');
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const all = standings(session.recorder, control.position);
  const has = pass !== null && !session.isRolling;
  const [chosen, setChosen] = useState<Show | null>(null);
  const show = chosen && (chosen !== 'receipt' || has) ? chosen : has ? 'receipt' : 'does';
  const does = all
    .filter(({ stands }) => stands !== 'wont' && stands !== 'aside')
    .sort((a, b) => ORDER[a.stands] - ORDER[b.stands]);
  const wont = all.filter(({ stands }) => stands === 'wont' || stands === 'aside');
  const channel = inHand ? controlOf(song, inHand).channel : null;
  const rows =
    show === 'wont'
      ? wont
      : show === 'channel'
        ? all.filter((o) => controlOf(song, o.control).channel === channel)
        : does;
  const name = session.isRolling
    ? 'What this pass writes'
    : has
      ? 'What the pass did, and what the next would'
      : 'What play would write';
  return (
    <Sheet name={name} onClose={onClose} className="sheet-list">
      <SegmentedControl
        size="xs"
        mb="xs"
        aria-label="What is listed"
        data={[
          ...(has ? [{ value: 'receipt', label: 'It did' }] : []),
          { value: 'does', label: `${session.isRolling ? 'Can write' : 'Will write'} (${does.length})` },
          { value: 'wont', label: `Won’t (${wont.length})` },
          { value: 'channel', label: channel ? channelOf(song, channel)!.name : 'In hand' },
        ]}
        value={show}
        onChange={(to) => setChosen(to as Show)}
      />
      <div className="list-rows">
        {show === 'receipt' && pass ? (
          <ReceiptList pass={pass} song={song} map={map} />
        ) : (
          <StandingList rows={rows} song={song} map={map} />
        )}
      </div>
    </Sheet>
  );
}

function StandingList({ rows, song, map }: { rows: readonly Standing[]; song: Song; map: MeterMap }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  if (!rows.length)
    return (
      <Text fz="sm" c="dimmed" p="xs">
        Nothing: every channel reads, is guarded or out of scope. “Won’t” says which and why.
      </Text>
    );
  return (
    <Table verticalSpacing={3} fz="sm">
      <Table.Tbody>
        {rows.map((one) => {
          const remedy = one.reason && remedyFor(song, one.control, one.reason);
          return (
            <Table.Tr key={one.control} data-testid={`stands-${one.control}`} className={`stands-${one.stands}`}>
              <Table.Td>
                <button type="button" className="link" onClick={() => dispatch(takenInHand(one.control))}>
                  {layerName(song, one.control, one.layer)}
                </button>
              </Table.Td>
              <Table.Td>{standingWords(one, map)}</Table.Td>
              <Table.Td c="dimmed">{one.reason ? whyInShort(song, one.control, one.reason) : ''}</Table.Td>
              <Table.Td ta="right">
                {remedy && <RemedyButton song={song} remedy={remedy} onClick={() => control.remedy(remedy)} />}
              </Table.Td>
            </Table.Tr>
          );
        })}
      </Table.Tbody>
    </Table>
  );
}

function RemedyButton({ song, remedy, onClick }: { song: Song; remedy: Remedy; onClick: () => void }): ReactNode {
  return (
    <Button size="compact-xs" variant="default" onClick={onClick}>
      {remedyWords(song, remedy)}
    </Button>
  );
}

/** The receipt, a lane a row, each with what can still be done with it. */
function ReceiptList({ pass, song, map }: { pass: LastPass; song: Song; map: MeterMap }): ReactNode {
  const { receipt, close, stands } = pass;
  const spans = ({ spans }: LaneReceipt): string =>
    spans.map(([from, to]) => `${shortBars(map, from)}–${shortBars(map, to)}`).join(', ');
  const { comparison } = useMoment();
  return (
    <>
      {!stands && (
        <Text fz="sm" c="dimmed" pb={4}>
          It does not stand any more: its lanes have been changed since, or it was taken back.
        </Text>
      )}
      {receipt.lanes.length > 0 && (
        <Button size="compact-xs" variant="default" mb={4} onClick={() => void comparison.toggle()}>
          {comparison.heard?.side === 'before' ? 'Compare: hear after' : 'Compare: hear before'}
        </Button>
      )}
      <Table verticalSpacing={3} fz="sm">
        <Table.Tbody>
          {receipt.lanes.map((lane, i) => (
            <Table.Tr key={`${lane.layer} ${lane.control}`} data-testid={`did-${lane.control}`}>
              <Table.Td>{layerName(song, lane.control, lane.layer)}</Table.Td>
              <Table.Td>{spans(lane)}</Table.Td>
              <Table.Td c="dimmed">
                {counted(lane.moves, 'move')}, {lane.points} points, {closeWords(close[i] ?? null, lane)}
                {lane.clamped.length > 0 &&
                  `; held at +12 dB ${lane.clamped.map(([a, b]) => `${shortBars(map, a)}–${shortBars(map, b)}`).join(', ')}`}
              </Table.Td>
              <Table.Td ta="right">{stands && <ReceiptActs lane={lane} pass={pass} />}</Table.Td>
            </Table.Tr>
          ))}
          {receipt.refused.map(({ control, reason }, i) => (
            <Table.Tr key={`${control} ${i}`}>
              <Table.Td>{layerName(song, control, 'base')}</Table.Td>
              <Table.Td colSpan={3} c="dimmed">
                Heard, not written: {wasRefused(reason)}
              </Table.Td>
            </Table.Tr>
          ))}
          {receipt.rested.map((control) => (
            <Table.Tr key={`rest ${control}`}>
              <Table.Td>{layerName(song, control, 'base')}</Table.Td>
              <Table.Td colSpan={3} c="dimmed">
                No curve: it set where it rests, for the whole song
              </Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      {!receipt.lanes.length && !receipt.refused.length && !receipt.rested.length && (
        <Group p="xs">
          <Text fz="sm" c="dimmed">
            That pass wrote nothing, and nothing was refused.
          </Text>
        </Group>
      )}
    </>
  );
}
