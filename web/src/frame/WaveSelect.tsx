import type { ReactNode } from 'react';
import { Select } from '@mantine/core';
import { WAVES, type Wave } from '@sure-hand/core/curve';
import { WAVE_NAMES } from '../hands/waves.js';

/** One of the waves by its name: of a shape, or of a sway. */
export function WaveSelect({
  label,
  value,
  onWave,
}: {
  label: string;
  value: Wave;
  onWave: (wave: Wave) => void;
}): ReactNode {
  return (
    <Select
      size="xs"
      w={130}
      label={label}
      allowDeselect={false}
      value={value}
      data={WAVES.map((wave) => ({ value: wave, label: WAVE_NAMES[wave] }))}
      onChange={(wave) => wave && onWave(wave as Wave)}
    />
  );
}
