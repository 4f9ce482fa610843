import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { Button, Group, Table, Text } from '@mantine/core';
import dayjs from 'dayjs';
import { useNavigate } from 'react-router';
import { ownByHands } from '@sure-hand/core/pass';
import { heardValue } from '@sure-hand/core/groups';
import { controlOf, fullName, type ControlId } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import type { Origin } from '@sure-hand/server';
import { guardWords, originParts, type OriginPart } from '../hands/originWords.js';
import { sectionAt } from '../hands/placing.js';
import { shortBars } from '../hands/reachWords.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { fetchOrigin } from '../song/songApi.js';
import { useAppDispatch, useAppSelector } from '../store/store.js';
import { didSomething } from '../store/viewSlice.js';

/** What is known of who wrote a part: on its way, there, nobody, or why it can't be had. */
type Found = { readonly origin: Origin | null } | { readonly trouble: string } | null;

/** Why a control is what it is at the line: who wrote it there and when, what its trim and VCAs add, what guards it. */
export function OriginSheet({ id, onClose }: { readonly id: ControlId; readonly onClose: () => void }): ReactNode {
  const { session, control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const [t] = useState(control.position);
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const parts = useMemo(() => originParts(song, id, t), [song, id, t]);
  const own = ownByHands(session.recorder, session.heardSong, t);
  const is = controlOf(song, id);
  const sum = is.scale.print(heardValue(song, id, own));
  const guards = guardWords(session.recorder, id);
  return (
    <Sheet
      name={`Where ${fullName(song, id)} comes from at ${shortBars(map, t)}`}
      className="sheet-origin"
      onClose={onClose}
    >
      <Text fz="sm" mb={6}>
        It is at <strong className="figures">{sum}</strong> there
        {parts.length > 1 ? ', all of this together:' : ':'}
      </Text>
      <Table verticalSpacing={3} fz="sm">
        <Table.Tbody>
          {parts.map((part) => (
            <PartRow key={`${part.layer} ${part.control}`} part={part} t={t} onClose={onClose} />
          ))}
        </Table.Tbody>
      </Table>
      {guards.length > 0 && (
        <Text fz="sm" mt={6} c="dimmed" data-testid="origin-guards">
          {guards.join(' ')}
        </Text>
      )}
    </Sheet>
  );
}

function useOrigin({ control, layer }: OriginPart, t: number): Found {
  const { id } = useOpenSong();
  const revision = useAppSelector((state) => state.song.revision);
  const [found, setFound] = useState<Found>(null);
  useEffect(() => {
    let left = false;
    fetchOrigin(id, { control, layer, t }).then(
      (origin) => !left && setFound({ origin }),
      (error: Error) => !left && setFound({ trouble: error.message }),
    );
    return () => void (left = true);
  }, [id, control, layer, t, revision]);
  return found;
}

/** One part with who wrote it, and what can be done about that. */
function PartRow({ part, t, onClose }: { part: OriginPart; t: number; onClose: () => void }): ReactNode {
  const found = useOrigin(part, t);
  const origin = found && 'origin' in found ? found.origin : null;
  return (
    <Table.Tr data-testid={`origin-${part.layer}-${part.control}`}>
      <Table.Td>{part.name}</Table.Td>
      <Table.Td className="figures">{part.value}</Table.Td>
      <Table.Td>{originWords(part, found)}</Table.Td>
      <Table.Td ta="right">{origin && <OriginActs part={part} origin={origin} t={t} onClose={onClose} />}</Table.Td>
    </Table.Tr>
  );
}

function originWords({ isBare }: OriginPart, found: Found): string {
  if (!found) return 'looking it up…';
  if ('trouble' in found) return `Who wrote it can’t be said: ${found.trouble}`;
  if (found.origin) return `${found.origin.name}, ${dayjs(found.origin.at).format('D MMM, HH:mm')}`;
  return isBare ? 'rests there since the song was made' : 'as the song was made';
}

function OriginActs({
  part,
  origin,
  t,
  onClose,
}: {
  part: OriginPart;
  origin: Origin;
  t: number;
  onClose: () => void;
}): ReactNode {
  const { id, control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const section = sectionAt(song, t);
  const where = section.name || 'the song';
  const back = (): void => {
    const { control: of, layer } = part;
    const { points, rest } = origin.before;
    const { changed } = control.mend({
      kind: 'bringBack',
      ...(origin.number === null ? {} : { pass: origin.number }),
      what: origin.name,
      side: 'before',
      versions: [{ control: of, layer, range: section.range, points, rest }],
    });
    if (changed.length) dispatch(didSomething(`${fullName(song, of)} in ${where} is as it was before ${origin.name}.`));
  };
  return (
    <Group gap={6} wrap="nowrap" justify="flex-end">
      {origin.number !== null && (
        <Button
          size="compact-xs"
          variant="default"
          onClick={() => {
            onClose();
            void navigate(`/songs/${id}/passes?pass=${origin.number}`);
          }}
        >
          Go to it
        </Button>
      )}
      <Button size="compact-xs" variant="default" onClick={back}>
        What was before, in {where}
      </Button>
    </Group>
  );
}
