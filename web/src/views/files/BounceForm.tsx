import { useMemo, useState, type ReactNode } from 'react';
import { Button, Checkbox, Group, SegmentedControl, Stack, Switch, Text } from '@mantine/core';
import { carriesAudio, type Channel, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { jobBegun } from '../../open/jobs.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { songSync, useAppSelector } from '../../store/store.js';
import { TimeField } from '../../parts/TimeField.js';
import { shortBars } from '../../hands/reachWords.js';
import { beginBounce, type BounceOrder } from '../../song/songApi.js';

type What = 'mix' | 'stems';
type Where = 'song' | 'range';

/** Channels that can be bounced by themselves. */
const stemsOf = (song: Song): Channel[] =>
  song.channels.filter((channel) => carriesAudio(channel) && channel.kind !== 'main');

const WHAT = [
  { value: 'mix', label: 'The mix' },
  { value: 'stems', label: 'Chosen channels' },
] as const;
const WHERE = [
  { value: 'song', label: 'The whole song' },
  { value: 'range', label: 'A range' },
] as const;
const FORMATS = [
  { value: '16', label: '16 bit, dithered' },
  { value: '24', label: '24 bit' },
  { value: '32f', label: '32 bit float' },
] as const;

/** The two ends of a range as they are typed; null where one is no time. */
type TypedRange = readonly [number | null, number | null];

/** What a bounce is made of, as it is chosen here. */
type Chosen = {
  readonly what: What;
  readonly where: Where;
  readonly bits: BounceOrder['bits'];
  readonly stems: ReadonlySet<string>;
  readonly throughMain: boolean;
  readonly range: TypedRange;
};

/** Why it can't be bounced so, in a sentence; null where it can. */
function wrongWith({ what, where, stems, range: [from, to] }: Chosen, song: Song): string | null {
  if (what === 'stems' && !stemsOf(song).some(({ key }) => stems.has(key))) return 'Choose at least one channel.';
  if (where === 'song') return null;
  if (from !== null && to !== null && from < to && to <= song.length + 1e-6) return null;
  const end = shortBars(meterMap(song.tempo, song.meter), song.length);
  return `The range goes from an earlier place to a later one, at most to the song’s end at ${end}.`;
}

/** The order for what is chosen, which nothing is wrong with. */
const orderOf = ({ what, where, bits, stems, throughMain, range: [from, to] }: Chosen, song: Song): BounceOrder => ({
  bits,
  ...(where === 'range' ? { range: [from!, Math.min(song.length, to!)] as const } : {}),
  ...(what === 'stems'
    ? { stems: stemsOf(song).flatMap(({ key }) => (stems.has(key) ? [key] : [])), throughMain }
    : {}),
});

/** What is to be bounced: the mix or chosen channels, all of the song or a range, in which format. */
export function BounceForm({ onTrouble }: { onTrouble: (sentence: string | null) => void }): ReactNode {
  const { id } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const marked = useAppSelector((state) => state.view.range);
  const [chosen, setChosen] = useState<Chosen>({
    ...{ what: 'mix', where: 'song', bits: '24', stems: new Set(), throughMain: true },
    range: marked ?? [0, song.length],
  });
  const choose = (changes: Partial<Chosen>): void => setChosen((now) => ({ ...now, ...changes }));
  const { what, where, bits, stems, throughMain, range } = chosen;
  const wrong = wrongWith(chosen, song);
  const begin = async (): Promise<void> => {
    onTrouble(null);
    try {
      // The server bounces what it has: what is on its way there comes first.
      await songSync.flush();
      jobBegun(await beginBounce(id, orderOf(chosen, song)));
    } catch (error) {
      onTrouble((error as Error).message);
    }
  };
  return (
    <Stack gap="sm">
      <Choice label="What to bounce" options={WHAT} value={what} onChoose={(to) => choose({ what: to })} />
      {what === 'stems' && (
        <>
          <StemChoice stems={stemsOf(song)} chosen={stems} onChoose={(to) => choose({ stems: to })} />
          <Switch
            size="sm"
            color="gray"
            label="Through the main: its level, pan and mute"
            checked={throughMain}
            onChange={(event) => choose({ throughMain: event.currentTarget.checked })}
          />
        </>
      )}
      <Choice label="Where" options={WHERE} value={where} onChoose={(to) => choose({ where: to })} />
      {where === 'range' && <RangeFields song={song} range={range} onRange={(to) => choose({ range: to })} />}
      <Choice label="Format" options={FORMATS} value={bits} onChoose={(to) => choose({ bits: to })} />
      <Group gap="sm" wrap="nowrap">
        <Button flex="none" color="gray" variant="filled" disabled={wrong !== null} onClick={() => void begin()}>
          {what === 'mix'
            ? 'Bounce the mix'
            : `Bounce ${stemsOf(song).filter(({ key }) => stems.has(key)).length} stems`}
        </Button>
        {wrong && (
          <Text fz="xs" c="dimmed">
            {wrong}
          </Text>
        )}
      </Group>
    </Stack>
  );
}

type ChoiceProps<T extends string> = {
  readonly label: string;
  readonly options: readonly { readonly value: T; readonly label: string }[];
  readonly value: T;
  readonly onChoose: (value: T) => void;
};

function Choice<T extends string>({ label, options, value, onChoose }: ChoiceProps<T>): ReactNode {
  return (
    <SegmentedControl
      aria-label={label}
      data={[...options]}
      value={value}
      onChange={(chosen) => onChoose(chosen as T)}
    />
  );
}

type RangeProps = {
  readonly song: Song;
  readonly range: TypedRange;
  readonly onRange: (range: TypedRange) => void;
};

function RangeFields({ song, range: [from, to], onRange }: RangeProps): ReactNode {
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  return (
    <Group gap="xs" wrap="nowrap" align="flex-start" grow>
      <TimeField size="xs" aria-label="From" label="From" map={map} t={from ?? 0} onTime={(t) => onRange([t, to])} />
      <TimeField
        size="xs"
        aria-label="To"
        label="To"
        map={map}
        t={to ?? song.length}
        onTime={(t) => onRange([from, t])}
      />
    </Group>
  );
}

type StemProps = {
  readonly stems: readonly Channel[];
  readonly chosen: ReadonlySet<string>;
  readonly onChoose: (keys: ReadonlySet<string>) => void;
};

function StemChoice({ stems, chosen, onChoose }: StemProps): ReactNode {
  const toggle = (keys: readonly string[], isOn: boolean): void => {
    const others = [...chosen].filter((key) => !keys.includes(key));
    onChoose(new Set(isOn ? [...others, ...keys] : others));
  };
  const all = stems.map(({ key }) => key);
  const count = all.filter((key) => chosen.has(key)).length;
  return (
    <div className="stem-choice" role="group" aria-label="Channels">
      <Checkbox
        size="xs"
        color="gray"
        label={`All ${all.length}`}
        checked={count === all.length}
        indeterminate={count > 0 && count < all.length}
        onChange={(event) => toggle(all, event.currentTarget.checked)}
      />
      <div className="stem-boxes">
        {stems.map(({ key, name }) => (
          <Checkbox
            key={key}
            size="xs"
            color="gray"
            label={name}
            checked={chosen.has(key)}
            onChange={(event) => toggle([key], event.currentTarget.checked)}
          />
        ))}
      </div>
    </div>
  );
}
