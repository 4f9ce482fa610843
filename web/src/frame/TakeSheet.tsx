import { useMemo, useState, type ChangeEvent, type ReactNode } from 'react';
import { Button, Chip, Group, Select, Text, TextInput } from '@mantine/core';
import { CONTROL_KINDS, type ControlKind } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { shortBars } from '../hands/reachWords.js';
import { controlsWords } from '../hands/placing.js';
import { TAKEN_OF, controlsToTake, nameToTake, takenNow, type TakenOf } from '../hands/snapshotActs.js';
import { useMoment } from '../open/useMoment.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething, snapshotInHand } from '../store/viewSlice.js';

const OF_NAMES: Record<TakenOf, string> = {
  now: 'What hands hold or write now',
  chosen: 'The channel in hand, or those chosen',
  family: 'The family in hand',
  all: 'Everything',
};
const KIND_NAMES: Record<ControlKind, string> = {
  level: 'Levels',
  pan: 'Pans',
  mute: 'Mutes',
  sends: 'Sends',
  inserts: 'Inserts',
};

/** Takes a snapshot at the line: of what, under which name. What it would hold is counted before it is taken. */
export function TakeSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { session, control } = useMoment();
  const { recorder } = session;
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, chosen } = useViewParts('inHand', 'chosen');
  const dispatch = useAppDispatch();
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [scene, t] = [{ recorder, inHand, chosen }, control.position];
  const [of, setOf] = useState<TakenOf>(() => (controlsToTake(scene, 'now', CONTROL_KINDS, t).length ? 'now' : 'all'));
  const [kinds, setKinds] = useState<readonly string[]>(CONTROL_KINDS);
  const [name, setName] = useState(() => nameToTake(song, t));
  const [note, setNote] = useState('');
  const ids = controlsToTake(scene, of, kinds as readonly ControlKind[], t);
  const says = ids.length
    ? `Takes ${controlsWords(song, ids)} as they are at ${shortBars(map, t)}: each one’s own value, without trim and VCAs.`
    : 'There is nothing of these kinds to take.';
  const take = (): void => {
    if (!ids.length || !name.trim()) return;
    const snapshot = takenNow(recorder, { name: name.trim(), note: note.trim(), ids, t });
    control.makeEdit({ kind: 'snapshot', remove: null, add: snapshot });
    dispatch(snapshotInHand(snapshot.key));
    dispatch(
      didSomething(
        `Snapshot ${snapshot.name} taken at ${shortBars(map, t)}: ${controlsWords(song, ids)}. Alt+P places it.`,
      ),
    );
    onClose();
  };
  return (
    <Sheet name="Take a snapshot" className="sheet-take" onClose={onClose} onEnter={take}>
      <Group gap="sm" align="flex-end" wrap="nowrap">
        <TextInput
          size="xs"
          w={180}
          label="Name"
          autoFocus
          maxLength={200}
          value={name}
          error={!name.trim()}
          onFocus={(event) => event.currentTarget.select()}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <OfSelect of={of} counts={(value) => controlsToTake(scene, value, CONTROL_KINDS, t).length} onOf={setOf} />
        <Button size="xs" onClick={take} disabled={!ids.length || !name.trim()}>
          Take (Enter)
        </Button>
      </Group>
      <KindChips kinds={kinds} onKinds={setKinds} />
      <NoteField note={note} onNote={setNote} />
      <Text fz="sm" mt={8} role="status" data-testid="take-says">
        {says}
      </Text>
    </Sheet>
  );
}

function OfSelect({
  of,
  counts,
  onOf,
}: {
  of: TakenOf;
  counts: (of: TakenOf) => number;
  onOf: (of: TakenOf) => void;
}): ReactNode {
  return (
    <Select
      size="xs"
      w={250}
      label="Of"
      allowDeselect={false}
      value={of}
      data={TAKEN_OF.map((value) => ({ value, label: OF_NAMES[value], disabled: !counts(value) }))}
      onChange={(to) => to && onOf(to as TakenOf)}
    />
  );
}

function KindChips({ kinds, onKinds }: { kinds: readonly string[]; onKinds: (kinds: string[]) => void }): ReactNode {
  return (
    <Chip.Group multiple value={[...kinds]} onChange={onKinds}>
      <Group gap={6} mt={8} role="group" aria-label="Kinds">
        {CONTROL_KINDS.map((kind) => (
          <Chip key={kind} value={kind} size="xs" variant="outline">
            {KIND_NAMES[kind]}
          </Chip>
        ))}
      </Group>
    </Chip.Group>
  );
}

function NoteField({ note, onNote }: { note: string; onNote: (note: string) => void }): ReactNode {
  const typed = (event: ChangeEvent<HTMLInputElement>): void => onNote(event.currentTarget.value);
  return <TextInput size="xs" mt={8} label="Note" maxLength={4000} value={note} onChange={typed} />;
}
