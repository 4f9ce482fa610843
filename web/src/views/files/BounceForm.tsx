import { useMemo, useState, type ReactNode } from 'react';
import { Button, Checkbox, Group, SegmentedControl, Stack, Switch, Text } from '@mantine/core';
import { carriesAudio, type Channel, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { useOpenSong } from '../../open/openSong.js';
import { songSync, useAppSelector } from '../../store/store.js';
import { TimeField } from '../../parts/TimeField.js';
import { shortBars } from '../../hands/reachWords.js';
import { beginBounce, type BounceOrder } from '../../song/songApi.js';

type What = 'mix' | 'stems';
type Where = 'song' | 'range';

/** Channels that can be bounced by themselves. */
const stemsOf = (song: Song): Channel[] =>
  song.channels.filter((channel) => carriesAudio(channel) && channel.kind !== 'main');

/** What is to be bounced: the mix or chosen channels, all of the song or a range, in which format. */
export function BounceForm({ onTrouble }: { onTrouble: (sentence: string | null) => void }): ReactNode {
  const { id } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const marked = useAppSelector((state) => state.view.range);
  const [what, setWhat] = useState<What>('mix');
  const [where, setWhere] = useState<Where>('song');
  const [bits, setBits] = useState<BounceOrder['bits']>('24');
  const [chosen, choose] = useState<ReadonlySet<string>>(new Set());
  const [throughMain, setThroughMain] = useState(true);
  const [range, setRange] = useState<readonly [number | null, number | null]>(marked ?? [0, song.length]);
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const stems = stemsOf(song);
  const [from, to] = range;
  const wrong =
    what === 'stems' && !stems.some(({ key }) => chosen.has(key))
      ? 'Choose at least one channel.'
      : where === 'song'
        ? null
        : from === null || to === null || from >= to || to > song.length + 1e-6
          ? `The range goes from an earlier place to a later one, at most to the song’s end at ${shortBars(map, song.length)}.`
          : null;
  const begin = async (): Promise<void> => {
    onTrouble(null);
    try {
      // The server bounces what it has: what is on its way there comes first.
      await songSync.flush();
      await beginBounce(id, {
        bits,
        ...(where === 'range' ? { range: [from!, Math.min(song.length, to!)] as const } : {}),
        ...(what === 'stems' ? { stems: stems.flatMap(({ key }) => (chosen.has(key) ? [key] : [])), throughMain } : {}),
      });
    } catch (error) {
      onTrouble((error as Error).message);
    }
  };
  const toggle = (keys: readonly string[], isOn: boolean): void => {
    const next = new Set(chosen);
    for (const key of keys)
      if (isOn) next.add(key);
      else next.delete(key);
    choose(next);
  };
  return (
    <Stack gap="sm">
      <SegmentedControl
        aria-label="What to bounce"
        value={what}
        onChange={(value) => setWhat(value as What)}
        data={[
          { value: 'mix', label: 'The mix' },
          { value: 'stems', label: 'Chosen channels' },
        ]}
      />
      {what === 'stems' && (
        <>
          <StemChoice stems={stems} chosen={chosen} onToggle={toggle} />
          <Switch
            size="sm"
            color="gray"
            label="Through the main: its level, pan and mute"
            checked={throughMain}
            onChange={(event) => setThroughMain(event.currentTarget.checked)}
          />
        </>
      )}
      <SegmentedControl
        aria-label="Where"
        value={where}
        onChange={(value) => setWhere(value as Where)}
        data={[
          { value: 'song', label: 'The whole song' },
          { value: 'range', label: 'A range' },
        ]}
      />
      {where === 'range' && (
        <Group gap="xs" wrap="nowrap" align="flex-start">
          <TimeField
            size="xs"
            aria-label="From"
            label="From"
            map={map}
            t={from ?? 0}
            onTime={(t) => setRange([t, to])}
          />
          <TimeField
            size="xs"
            aria-label="To"
            label="To"
            map={map}
            t={to ?? song.length}
            onTime={(t) => setRange([from, t])}
          />
        </Group>
      )}
      <SegmentedControl
        aria-label="Format"
        value={bits}
        onChange={(value) => setBits(value as BounceOrder['bits'])}
        data={[
          { value: '16', label: '16 bit, dithered' },
          { value: '24', label: '24 bit' },
          { value: '32f', label: '32 bit float' },
        ]}
      />
      <Group gap="sm" wrap="nowrap">
        <Button color="gray" variant="filled" disabled={wrong !== null} onClick={() => void begin()}>
          {what === 'mix' ? 'Bounce the mix' : `Bounce ${stems.filter(({ key }) => chosen.has(key)).length} stems`}
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

function StemChoice({
  stems,
  chosen,
  onToggle,
}: {
  stems: readonly Channel[];
  chosen: ReadonlySet<string>;
  onToggle: (keys: readonly string[], isOn: boolean) => void;
}): ReactNode {
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
        onChange={(event) => onToggle(all, event.currentTarget.checked)}
      />
      <div className="stem-boxes">
        {stems.map(({ key, name }) => (
          <Checkbox
            key={key}
            size="xs"
            color="gray"
            label={name}
            checked={chosen.has(key)}
            onChange={(event) => onToggle([key], event.currentTarget.checked)}
          />
        ))}
      </div>
    </div>
  );
}
