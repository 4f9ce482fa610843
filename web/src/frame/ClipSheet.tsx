import { useMemo, type ReactNode } from 'react';
import { Group, SegmentedControl, Text } from '@mantine/core';
import { FADE_SHAPES, channelOf, type ClipShaping, type FadeShape } from '@sure-hand/core/song';
import { fadeGain } from '@sure-hand/core/mix';
import { meterMap } from '@sure-hand/core/time';
import { shortBars } from '../hands/reachWords.js';
import { KeptNumber } from '../parts/KeptNumber.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';

const SHAPE_NAMES: Record<FadeShape, string> = { line: 'Straight', round: 'Round', s: 'Slow at both ends' };

/** A fade's shape, drawn. */
function ShapeIcon({ shape, isOut }: { shape: FadeShape; isOut: boolean }): ReactNode {
  const steps = 12;
  const points = Array.from({ length: steps + 1 }, (_, i) => {
    const u = i / steps;
    return `${(2 + 16 * u).toFixed(1)},${(12 - 10 * fadeGain(shape, isOut ? 1 - u : u)).toFixed(1)}`;
  });
  return (
    <svg width="20" height="14" role="img" aria-label={SHAPE_NAMES[shape]} fill="none" stroke="currentColor">
      <polyline points={points.join(' ')} strokeWidth="1.5" />
    </svg>
  );
}

function Shapes({
  isOut,
  shape,
  onShape,
}: {
  isOut: boolean;
  shape: FadeShape;
  onShape: (shape: FadeShape) => void;
}): ReactNode {
  return (
    <SegmentedControl
      size="xs"
      aria-label={isOut ? 'Shape of the fade out' : 'Shape of the fade in'}
      value={shape}
      onChange={(value) => onShape(value as FadeShape)}
      data={FADE_SHAPES.map((one) => ({ value: one, label: <ShapeIcon shape={one} isOut={isOut} /> }))}
    />
  );
}

/** A clip's gain and fades, typed. Each is kept by itself, and undone by itself. */
export function ClipSheet({
  channel: key,
  at,
  onClose,
}: {
  readonly channel: string;
  readonly at: number;
  readonly onClose: () => void;
}): ReactNode {
  const { control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const channel = channelOf(song, key);
  const clip = channel?.clips.find((one) => one.t === at);
  if (!channel || !clip)
    return (
      <Sheet name="Clip" onClose={onClose}>
        <Text fz="sm">The clip is not there any more.</Text>
      </Sheet>
    );
  const shape = (changes: ClipShaping): void => control.shapeClip(key, clip, changes);
  const name = `Clip of ${channel.name}, ${shortBars(map, clip.t)}–${shortBars(map, clip.t + clip.length)}`;
  return (
    <Sheet name={name} onClose={onClose}>
      <Group gap="md" align="flex-end" wrap="nowrap">
        <KeptNumber
          label="Gain, dB"
          autoFocus
          value={clip.gain}
          step={0.5}
          decimalScale={1}
          min={-144}
          max={24}
          onKeep={(gain) => shape({ gain })}
        />
        <KeptNumber
          label="Fade in, s"
          value={clip.fadeIn}
          step={0.1}
          decimalScale={3}
          min={0}
          max={clip.length}
          onKeep={(fadeIn) => shape({ fadeIn })}
        />
        <Shapes isOut={false} shape={clip.fadeInShape} onShape={(fadeInShape) => shape({ fadeInShape })} />
        <KeptNumber
          label="Fade out, s"
          value={clip.fadeOut}
          step={0.1}
          decimalScale={3}
          min={0}
          max={clip.length}
          onKeep={(fadeOut) => shape({ fadeOut })}
        />
        <Shapes isOut shape={clip.fadeOutShape} onShape={(fadeOutShape) => shape({ fadeOutShape })} />
      </Group>
    </Sheet>
  );
}
