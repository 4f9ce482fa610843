import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, MultiSelect, SegmentedControl, Select, Text, TextInput } from '@mantine/core';
import { whyNotMade, type Edit } from '@sure-hand/core/edits';
import { vcasOver } from '@sure-hand/core/groups';
import { channelNamed, channelOf, controlId, laneOf, type Channel, type Song } from '@sure-hand/core/song';
import {
  FOLD_WORKED_OUT,
  channelsOf,
  foldForecast,
  lanesOfFolding,
  membersToChoose,
  newVca,
  type FoldForecast,
} from '../hands/families.js';
import { listed } from '../hands/familyWords.js';
import { Sheet } from '../parts/Sheet.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething, lanesChosen, takenInHand } from '../store/viewSlice.js';
import { useWorkedOut } from './useWorkedOut.js';

const NEW = '(new)';

/** Whether a VCA takes or adds anything anywhere. */
function movesLevels(song: Song, key: string): boolean {
  const { points, trim, rest } = laneOf(song, controlId(key, 'level'));
  return points.length > 0 || trim.length > 0 || rest !== 0;
}

/** VCA groups: made, named, given other members, folded into them, dissolved. */
export function VcaSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, chosen } = useViewParts('inHand', 'chosen');
  const vcas = song.channels.filter(({ kind }) => kind === 'vca');
  const held = inHand ? channelOf(song, channelNamed(inHand)) : undefined;
  // Of a member the VCA over it, one that moves it first.
  const overs = held ? vcasOver(song, held.key) : [];
  const over = overs.find((key) => movesLevels(song, key)) ?? overs[0];
  const [which, setWhich] = useState<string>(
    chosen.length ? NEW : held?.kind === 'vca' ? held.key : (over ?? vcas[0]?.key ?? NEW),
  );
  const vca = vcas.find(({ key }) => key === which);
  return (
    <Sheet name="VCA groups" onClose={onClose} className="sheet-family">
      <Select
        size="xs"
        aria-label="Which VCA"
        allowDeselect={false}
        value={vca ? vca.key : NEW}
        onChange={(value) => setWhich(value ?? NEW)}
        data={[...vcas.map(({ key, name }) => ({ value: key, label: name })), { value: NEW, label: 'A new VCA…' }]}
      />
      {vca ? (
        <OneVca key={vca.key} song={song} vca={vca} onClose={onClose} />
      ) : (
        <NewVca song={song} onMade={setWhich} />
      )}
    </Sheet>
  );
}

function NewVca({ song, onMade }: { song: Song; onMade: (key: string) => void }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const { chosen } = useViewParts('chosen');
  const [name, setName] = useState('');
  const [members, setMembers] = useState<readonly string[]>(() => channelsOf(song, chosen));
  const [wrong, setWrong] = useState<string | null>(null);
  const make = (): void => {
    const add = newVca(song, name.trim() || 'VCA', members);
    const edit = { kind: 'vca', remove: null, add } as const;
    const sentence = members.length ? whyNotMade(song, edit) : 'A VCA needs a member to move; choose one.';
    setWrong(sentence);
    if (sentence) return;
    control.makeEdit(edit);
    dispatch(lanesChosen([]));
    dispatch(takenInHand(controlId(add.key, 'level')));
    dispatch(didSomething(`VCA ${add.name} made, at 0 dB over ${members.length} channels.`));
    onMade(add.key);
  };
  return (
    <>
      <Group gap="xs" mt={8} align="flex-end" wrap="nowrap">
        <TextInput
          size="xs"
          label="Name"
          placeholder="VCA"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
          onKeyDown={(event) => event.key === 'Enter' && make()}
        />
        <Button size="xs" onClick={make}>
          Make it
        </Button>
      </Group>
      <Members song={song} of={null} value={members} onChange={setMembers} />
      <Wrong sentence={wrong} />
    </>
  );
}

function Members({
  song,
  of,
  value,
  onChange,
}: {
  song: Song;
  of: string | null;
  value: readonly string[];
  onChange: (members: readonly string[]) => void;
}): ReactNode {
  const label = ({ kind, name }: Channel): string => (kind === 'vca' ? `${name} (VCA)` : name);
  return (
    <MultiSelect
      mt={8}
      size="xs"
      searchable
      label="Members"
      data={membersToChoose(song, of).map((one) => ({ value: one.key, label: label(one) }))}
      value={[...value]}
      onChange={onChange}
    />
  );
}

const Wrong = ({ sentence }: { sentence: string | null }): ReactNode =>
  sentence && (
    <Text fz="sm" role="alert" className="trouble" mt={4}>
      {sentence}
    </Text>
  );

function OneVca({ song, vca, onClose }: { song: Song; vca: Channel; onClose: () => void }): ReactNode {
  const { control } = useOpenSong();
  const [wrong, setWrong] = useState<string | null>(null);
  const change = (changes: Partial<Pick<Channel, 'name' | 'members'>>): void => {
    const edit = { kind: 'vca', remove: vca, add: { ...vca, ...changes } } as const;
    const sentence = whyNotMade(song, edit);
    setWrong(sentence);
    if (!sentence) control.makeEdit(edit);
  };
  const rename = (name: string): void => {
    if (name.trim() && name.trim() !== vca.name) change({ name: name.trim() });
  };
  return (
    <>
      <TextInput
        key={vca.name}
        mt={8}
        size="xs"
        label="Name"
        defaultValue={vca.name}
        maxLength={200}
        onBlur={(event) => rename(event.currentTarget.value)}
        onKeyDown={(event) => event.key === 'Enter' && rename(event.currentTarget.value)}
      />
      <Members song={song} of={vca.key} value={vca.members} onChange={(members) => change({ members: [...members] })} />
      <Wrong sentence={wrong} />
      <Folding song={song} vca={vca} />
      <Dissolving song={song} vca={vca} onClose={onClose} />
    </>
  );
}

/** What folding would do, once that is worked out. */
function useForecast(song: Song, edit: Edit): FoldForecast {
  const controls = useMemo(() => lanesOfFolding(song), [song]);
  const isReady = useWorkedOut(song, edit, controls);
  return useMemo(() => (isReady ? foldForecast(song, edit) : FOLD_WORKED_OUT), [isReady, song, edit]);
}

/** The VCA's level put into its members, over the whole song or the range: what it would write is said before. */
function Folding({ song, vca }: { song: Song; vca: Channel }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const { range } = useViewParts('range');
  const [over, setOver] = useState<'song' | 'range'>('song');
  const where = over === 'range' && range ? range : null;
  const edit = useMemo(
    () => ({ kind: 'foldVca', vca: vca.key, ...(where ? { range: where } : {}) }) as const,
    [vca.key, where],
  );
  const forecast = useForecast(song, edit);
  const fold = (): void => {
    const { changed } = control.mend(edit);
    if (changed.length) dispatch(didSomething(`${vca.name} folded into its members; it stands at 0 dB there now.`));
  };
  return (
    <section className="family-one" aria-label={`Fold ${vca.name}`}>
      <Group gap="xs" wrap="nowrap">
        <SegmentedControl
          size="xs"
          aria-label="What is folded"
          value={over}
          onChange={(value) => setOver(value as 'song' | 'range')}
          data={[
            { value: 'song', label: 'Whole song' },
            { value: 'range', label: 'Range', disabled: !range },
          ]}
        />
        <Button size="xs" disabled={!forecast.can} onClick={fold}>
          Fold into members
        </Button>
      </Group>
      <Text fz="sm" mt={6} role="status" data-testid="fold-says">
        {forecast.says} {forecast.clamps}
      </Text>
    </section>
  );
}

function Dissolving({ song, vca, onClose }: { song: Song; vca: Channel; onClose: () => void }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const edit = useMemo(() => ({ kind: 'vca', remove: vca, add: null, fold: true }) as const, [vca]);
  const folding = useForecast(song, edit);
  const mute = laneOf(song, controlId(vca.key, 'mute'));
  const hasMute = mute.points.length > 0 || mute.rest >= 0.5;
  const dissolve = (fold: boolean): void => {
    if (!control.takes(fold ? edit : { ...edit, fold })) return;
    dispatch(didSomething(`VCA ${vca.name} dissolved${fold ? ', folded into its members' : ''}. Undo brings it back.`));
    onClose();
  };
  const names = listed(vca.members.slice(0, 4).map((key) => channelOf(song, key)?.name ?? key));
  return (
    <section className="family-one" aria-label={`Dissolve ${vca.name}`}>
      <Group gap="xs">
        <Button size="xs" variant="default" disabled={!folding.can} onClick={() => dissolve(true)}>
          Fold and dissolve
        </Button>
        <Button size="xs" variant="default" onClick={() => dissolve(false)}>
          Dissolve only
        </Button>
      </Group>
      <Text fz="sm" mt={6}>
        {folding.can
          ? `Folded, its ${hasMute ? 'level and mute go' : 'level goes'} into its members and nothing is heard to change.`
          : folding.says}{' '}
        Dissolved only, what it does to {names || 'them'} is dropped{hasMute ? ', its mute too' : ''}.
      </Text>
    </section>
  );
}
