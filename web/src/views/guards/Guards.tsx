import { useMemo, useState, type ReactNode } from 'react';
import { Chip, Group, SegmentedControl, Text } from '@mantine/core';
import { CONTROL_KINDS, type Channel, type ChannelKey, type Song } from '@sure-hand/core/song';
import { nextPlay, type NextPlay } from '../../hands/guardCells.js';
import { KIND_NAMES, familyOf } from '../../hands/laneFilter.js';
import { useMoment } from '../../open/useMoment.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';
import { useAppSelector } from '../../store/store.js';
import { GuardGrid } from './GuardGrid.js';
import { GuardSets } from './GuardSets.js';
import './guards.css';

/** Which channels are looked at: all, those of which the next play can write something, those of which it writes nothing. */
type Show = 'all' | 'writes' | 'wont';

const isShown = (show: Show, next: NextPlay | undefined): boolean => {
  if (show === 'all') return true;
  const writes = (next?.writes.length ?? 0) + (next?.touched.length ?? 0) > 0;
  return show === 'writes' ? writes : !writes;
};

/** What keeps what from being written: channels down by family, across their modes and guards; what passes may write on top. */
export function Guards(): ReactNode {
  const { session, control } = useMoment();
  const song = useAppSelector((state) => state.song.song)!;
  const [show, setShow] = useState<Show>('all');
  const next = nextPlay(session.recorder, control.position);
  const shown = song.channels.filter(({ key }) => isShown(show, next.get(key)));
  const families = useFamilies(song, shown.map(({ key }) => key).join(' '));
  return (
    <main className="page guards">
      <Group className="guards-top" gap="lg" wrap="nowrap">
        <Scope song={song} />
        <GuardSets />
      </Group>
      <Group className="guards-filter" gap="sm" wrap="nowrap">
        <SegmentedControl
          size="xs"
          aria-label="Which channels"
          value={show}
          onChange={(to) => setShow(to as Show)}
          data={[
            { value: 'all', label: 'All channels' },
            { value: 'writes', label: 'The next play would write' },
            { value: 'wont', label: 'It would not' },
          ]}
        />
        <Text fz="xs" c="dimmed">
          Drag over cells to set many, modes too; a family’s or a VCA’s name chooses its channels. Arrows go on, Shift
          extends, Enter or 1 to 5 sets.
        </Text>
      </Group>
      <GuardGrid song={song} families={families} next={next} />
    </main>
  );
}

/** Channels by family, in the song's order. */
function useFamilies(song: Song, keys: string): readonly (readonly [string, readonly Channel[]])[] {
  return useMemo(() => {
    const shown = new Set<ChannelKey>(keys.split(' '));
    const byFamily = new Map<string, Channel[]>();
    for (const channel of song.channels.filter(({ key }) => shown.has(key)))
      byFamily.set(familyOf(channel), [...(byFamily.get(familyOf(channel)) ?? []), channel]);
    return [...byFamily];
  }, [song.channels, keys]);
}

/** What passes, placings and snapshots may write, song-wide; and whether anything is read at all. */
function Scope({ song }: { song: Song }): ReactNode {
  const { control } = useMoment();
  const { writeScope, parked } = song.settings;
  return (
    <Group gap={8} wrap="nowrap">
      <Text fz="sm" fw={700}>
        Write scope
      </Text>
      {CONTROL_KINDS.map((kind) => (
        <Chip
          key={kind}
          size="xs"
          variant="outline"
          checked={writeScope.includes(kind)}
          onChange={(on) =>
            control.setScope(CONTROL_KINDS.filter((one) => (one === kind ? on : writeScope.includes(one))))
          }
        >
          {KIND_NAMES[kind]}
        </Chip>
      ))}
      <Tip label="No curve is read, all are kept (Alt+Shift+K)">
        <PlainButton className="guards-parked" aria-pressed={parked} onClick={() => control.toggleParkSong()}>
          {parked ? 'Song parked' : 'Park the song'}
        </PlainButton>
      </Tip>
    </Group>
  );
}
