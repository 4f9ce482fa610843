import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, Select, Text } from '@mantine/core';
import { guardOn } from '@sure-hand/core/song';
import { staysOf } from '../hands/reasonWords.js';
import { RATES, WAVE_NAMES, waveEdit, waveWords, type AskedWave, type Rate } from '../hands/waves.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { NumberField } from '../parts/NumberField.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector, useViewParts } from '../store/store.js';
import { standsLow } from './standsLow.js';
import { WaveSelect } from './WaveSelect.js';
import { useDraft } from './useDraft.js';

const PER_CENT = 100;
const TURN_DEGREES = 360;
const MOST_SEED = 9999;

/** A share of the throw, typed in per cent. */
function Share({
  label,
  value,
  onValue,
}: {
  label: string;
  value: number;
  onValue: (value: number) => void;
}): ReactNode {
  return (
    <NumberField
      w={96}
      label={label}
      value={Math.round(value * PER_CENT * 10) / 10}
      min={0}
      max={PER_CENT}
      step={1}
      onValue={(share) => onValue(share / PER_CENT)}
    />
  );
}

/** A shape at a musical rate over the range: drawn and heard before it is kept. */
export function WaveSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, range } = useViewParts('inHand', 'range');
  const [isHigh] = useState(() => standsLow(inHand));
  const [asked, setAsked] = useState<AskedWave>(() => {
    const centre = inHand ? Math.round(control.travelNow(inHand) * 100) / 100 : 0.5;
    return { wave: 'sine', rate: '1/4', depth: 0.1, centre, phase: 0, seed: 1 };
  });
  const edit = useMemo(() => waveEdit(song, inHand, range, asked), [song, inHand, range, asked]);
  const words = useMemo(() => waveWords(song, edit, asked), [song, edit, asked]);
  const kept = useDraft(edit);
  const change = (changes: Partial<AskedWave>): void => setAsked((was) => ({ ...was, ...changes }));
  const keep = (): void => {
    if (!edit) return;
    kept(`${WAVE_NAMES[asked.wave]} drawn: ${words}`);
    onClose();
  };
  const guard = inHand ? guardOn(song, inHand) : null;
  const missing = !range
    ? 'Set a range first, with I and O or by dragging on the ruler.'
    : guard && inHand
      ? staysOf(song, inHand, guard)
      : '';
  return (
    <Sheet name="Shape over the range" className={isHigh ? 'sheet-high' : ''} onClose={onClose} onEnter={keep}>
      <Group gap="sm" align="flex-end" wrap="nowrap">
        <WaveFields asked={asked} change={change} />
        <Button size="xs" onClick={keep} disabled={!edit}>
          Draw
        </Button>
      </Group>
      <Text fz="sm" mt={8} role="status" data-testid="wave-says">
        {missing || words}
      </Text>
    </Sheet>
  );
}

function WaveFields({ asked, change }: { asked: AskedWave; change: (changes: Partial<AskedWave>) => void }): ReactNode {
  return (
    <>
      <WaveSelect label="Shape" value={asked.wave} onWave={(wave) => change({ wave })} />
      <Select
        size="xs"
        w={96}
        label="One cycle"
        allowDeselect={false}
        value={asked.rate}
        data={[...RATES]}
        onChange={(value) => value && change({ rate: value as Rate })}
      />
      <Share label="Depth, %" value={asked.depth} onValue={(depth) => change({ depth })} />
      <Share label="Centre, %" value={asked.centre} onValue={(centre) => change({ centre })} />
      {asked.wave === 'steps' ? (
        <NumberField
          w={96}
          label="Which steps"
          value={asked.seed}
          min={1}
          max={MOST_SEED}
          step={1}
          allowDecimal={false}
          onValue={(seed) => change({ seed: Math.round(seed) })}
        />
      ) : (
        <NumberField
          w={96}
          label="Phase, °"
          value={asked.phase * TURN_DEGREES}
          min={-TURN_DEGREES}
          max={TURN_DEGREES}
          step={15}
          onValue={(degrees) => change({ phase: degrees / TURN_DEGREES })}
        />
      )}
    </>
  );
}
