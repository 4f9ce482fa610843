import type { ReactNode } from 'react';
import { UnstyledButton } from '@mantine/core';
import type { Range } from '@sure-hand/core/curve';
import { meterMap } from '@sure-hand/core/time';
import { shortBars } from '../hands/reachWords.js';
import { Tip } from '../parts/Tip.js';
import { useAppSelector, useOfSong } from '../store/store.js';

const NO_RANGE = 'Set a range first: drag on the ruler, or I and O';

/** Something that is switched on over the range that is set: it lights up, and says from where to where on hover. */
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
  const { tempo, meter } = useOfSong('tempo', 'meter');
  const range = useAppSelector((state) => state.view.range);
  const map = meterMap(tempo, meter);
  const where = on ? `${name} ${shortBars(map, on[0])}–${shortBars(map, on[1])}` : name;
  const label = on ? `${where}: off (${keys})` : range ? `${name} over the range (${keys})` : NO_RANGE;
  return (
    <Tip label={label}>
      <UnstyledButton
        className={on ? 'top-switch is-on' : 'top-switch'}
        aria-label={where}
        aria-pressed={on !== null}
        disabled={!on && !range}
        onClick={() => onChange(on ? null : range)}
      >
        {icon}
        {name}
      </UnstyledButton>
    </Tip>
  );
}
