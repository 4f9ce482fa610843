import type { ReactNode } from 'react';
import { Button, Group, Tooltip } from '@mantine/core';
import type { Range } from '@sure-hand/core/curve';
import { CONTROL_KINDS } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { shortBars } from '../hands/handSentence.js';
import { useHands } from './openSong.js';
import { useAppDispatch, useAppSelector } from './store.js';
import { askedFor } from './viewSlice.js';

const NO_RANGE = 'Set a range first: drag on the ruler, or I and O';

/** Something that is switched on over the range that is set: while it is on it says from where to where. */
export function RangeButton({
  name,
  keys,
  icon,
  on,
  onChange,
}: {
  name: string;
  keys: string;
  icon: ReactNode;
  on: Range | null;
  onChange: (to: Range | null) => void;
}): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const range = useAppSelector((state) => state.view.range);
  const map = meterMap(song.tempo, song.meter);
  const words = on ? ` ${shortBars(map, on[0])}–${shortBars(map, on[1])}` : '';
  const label = on ? `${name}${words}: off (${keys})` : range ? `${name} over the range (${keys})` : NO_RANGE;
  return (
    <Tooltip label={label}>
      <Button
        size="xs"
        radius="xl"
        variant="default"
        className={on ? 'loop is-on' : 'loop'}
        leftSection={icon}
        aria-pressed={on !== null}
        disabled={!on && !range}
        onClick={() => onChange(on ? null : range)}
      >
        {name}
        {words}
      </Button>
    </Tooltip>
  );
}

/** The mode that stands in for every channel's, and how passes write besides; the song's being parked can't be overlooked. */
export function WritingState(): ReactNode {
  const { control } = useHands();
  const dispatch = useAppDispatch();
  const { deskMode, writeScope, parked } = useAppSelector((state) => state.song.song)!.settings;
  const scope =
    writeScope.length < CONTROL_KINDS.length ? `, ${writeScope.length} of ${CONTROL_KINDS.length} kinds` : '';
  return (
    <Group gap={6} wrap="nowrap">
      {parked && (
        <Tooltip label="Every curve is parked: none is read, none is written. Click to read them again (Alt+Shift+K)">
          <Button size="xs" radius="xl" color="hand" className="parked-song" onClick={() => control.toggleParkSong()}>
            Song parked
          </Button>
        </Tooltip>
      )}
      <Tooltip label="How passes write: desk mode, write scope, return, thinning (W)">
        <Button
          size="xs"
          radius="xl"
          variant="default"
          className={deskMode || scope ? 'loop is-on' : 'loop'}
          onClick={() => dispatch(askedFor({ what: 'writing' }))}
        >
          {deskMode ? `Desk: ${deskMode}` : 'Own modes'}
          {scope}
        </Button>
      </Tooltip>
    </Group>
  );
}
