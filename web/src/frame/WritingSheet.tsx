import type { ReactNode } from 'react';
import { Button, Checkbox, Group, SegmentedControl, Stack, Switch, Text } from '@mantine/core';
import { CONTROL_KINDS, MODES, type ControlKind, type Mode, type Song } from '@sure-hand/core/song';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import { KeptNumber } from '../parts/KeptNumber.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector } from '../store/store.js';

const OWN = 'own';
const KIND_NAMES: Record<ControlKind, string> = {
  level: 'Level',
  pan: 'Pan',
  mute: 'Mute',
  sends: 'Sends',
  inserts: 'Inserts',
};
const capital = (word: string): string => word[0]!.toUpperCase() + word.slice(1);
const options = (words: readonly string[]): { value: string; label: string }[] =>
  words.map((value) => ({ value, label: capital(value) }));
/** Tolerances of thinning, in travel, by what they are called. */
const THIN_NAMES: readonly (readonly [number, string])[] = [
  [0, 'Off'],
  [0.002, 'Fine'],
  [0.005, 'Medium'],
  [0.015, 'Coarse'],
];
/** Seconds that a return can take (rules, 5). */
const RETURN_TIME = { min: 0, max: 5 } as const;

function Row({ name, why, children }: { name: string; why: string; children: ReactNode }): ReactNode {
  return (
    <div>
      <Group justify="space-between" wrap="nowrap" gap="md">
        <Text fz="sm" fw={700} className="setting-name">
          {name}
        </Text>
        {children}
      </Group>
      <Text fz="xs" c="dimmed">
        {why}
      </Text>
    </div>
  );
}

type Settings = Song['settings'];

/** How passes write in this song. The song may roll meanwhile: what is changed holds at once. */
export function WritingSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { settings } = useAppSelector((state) => state.song.song)!;
  return (
    <Sheet name="How passes write" onClose={onClose} className="sheet-writing">
      <Stack gap="sm">
        <DeskMode {...settings} />
        <WriteScope {...settings} />
        <ReturnTime {...settings} />
        <Thinning {...settings} />
        <AfterWrite {...settings} />
        <FoldTrim {...settings} />
      </Stack>
    </Sheet>
  );
}

function DeskMode({ deskMode }: Settings): ReactNode {
  const { control } = useOpenSong();
  return (
    <Row
      name="Desk mode"
      why="One mode stands in for every channel’s; per channel, each has its own again (Alt+0 to Alt+5)."
    >
      <SegmentedControl
        size="xs"
        aria-label="Desk mode"
        data={[{ value: OWN, label: 'Per channel' }, ...options(MODES)]}
        value={deskMode ?? OWN}
        onChange={(to) => control.setDesk(to === OWN ? null : (to as Mode))}
      />
    </Row>
  );
}

function WriteScope({ writeScope }: Settings): ReactNode {
  const { control } = useOpenSong();
  const set = (kind: ControlKind, isIn: boolean): void =>
    control.setScope(CONTROL_KINDS.filter((one) => (one === kind ? isIn : writeScope.includes(one))));
  return (
    <Row name="Write scope" why="Kinds of control that passes may write; the others are heard under a hand.">
      <Group gap="sm" wrap="nowrap">
        {CONTROL_KINDS.map((kind) => (
          <Checkbox
            key={kind}
            size="xs"
            label={KIND_NAMES[kind]}
            checked={writeScope.includes(kind)}
            onChange={({ currentTarget }) => set(kind, currentTarget.checked)}
          />
        ))}
      </Group>
    </Row>
  );
}

function ReturnTime({ returnTime }: Settings): ReactNode {
  const { control } = useOpenSong();
  const change = (returnTime: number): void => control.changeSettings({ returnTime });
  return (
    <Row name="Return time" why="In touch: how long the way back to the curve takes after a release, in seconds.">
      <Group gap="sm" wrap="nowrap">
        <ReturnDrawing sec={returnTime} />
        <KeptNumber
          w={84}
          aria-label="Return time"
          suffix=" s"
          min={RETURN_TIME.min}
          max={RETURN_TIME.max}
          step={0.05}
          decimalScale={2}
          value={returnTime}
          onKeep={change}
        />
      </Group>
    </Row>
  );
}

function Thinning({ thin }: Settings): ReactNode {
  const { control } = useOpenSong();
  const isNamed = THIN_NAMES.some(([value]) => value === thin);
  return (
    <Row name="Thinning" why="How far the kept curve may be from the hand’s: fine is 0.2 % of the throw.">
      <SegmentedControl
        size="xs"
        aria-label="Thinning"
        data={[
          ...THIN_NAMES.map(([value, label]) => ({ value: String(value), label })),
          ...(isNamed ? [] : [{ value: String(thin), label: String(thin) }]),
        ]}
        value={String(thin)}
        onChange={(to) => control.changeSettings({ thin: Number(to) })}
      />
    </Row>
  );
}

function AfterWrite({ afterWrite }: Settings): ReactNode {
  const { control } = useOpenSong();
  return (
    <Row
      name="After a write pass"
      why="A channel in write goes on in touch, so that the next play does not write all of it again."
    >
      <Switch
        size="xs"
        label="go on in touch"
        checked={afterWrite === 'touch'}
        onChange={({ currentTarget }) =>
          control.changeSettings({ afterWrite: currentTarget.checked ? 'touch' : 'write' })
        }
      />
    </Row>
  );
}

function FoldTrim({ foldTrim }: Settings): ReactNode {
  const { control } = useOpenSong();
  return (
    <Row
      name="Fold trim"
      why="Offsets become part of the curve: by hand (F the channel in hand, Shift+F all), or as a pass has written them."
    >
      <Group gap="sm" wrap="nowrap">
        <Button size="compact-xs" variant="default" onClick={() => control.foldTrim(null)}>
          Fold all now
        </Button>
        <Switch
          size="xs"
          label="fold with each pass"
          checked={foldTrim === 'pass'}
          onChange={({ currentTarget }) =>
            control.changeSettings({ foldTrim: currentTarget.checked ? 'pass' : 'hand' })
          }
        />
      </Group>
    </Row>
  );
}

const DRAWING = { width: 168, height: 54, secShown: 2.5, release: 0.5, held: -2, from: -14, to: -6 } as const;

/** What the return time does: a hand held above a curve lets go, and the line goes to where the curve will be. */
function ReturnDrawing({ sec }: { sec: number }): ReactNode {
  const { width, height, secShown, release, held, from, to } = DRAWING;
  const shown = Math.max(secShown, sec + 1);
  const x = (t: number): number => (t / shown) * width;
  const y = (db: number): number => height - 4 - (travelOf(LEVEL_LAW, db) - 0.45) * (height - 8) * 2.9;
  const curveAt = (t: number): number => from + ((to - from) * t) / shown;
  const lands = release + sec;
  return (
    <svg
      width={width}
      height={height}
      className="return-drawing"
      role="img"
      aria-label={`After a release the line lands on the curve ${sec} seconds later`}
    >
      <path className="old" d={`M0 ${y(curveAt(0))} L${width} ${y(curveAt(shown))}`} />
      <path
        className="fresh"
        d={`M0 ${y(held)} L${x(release)} ${y(held)} L${x(lands)} ${y(curveAt(lands))}`}
        fill="none"
      />
      <circle cx={x(release)} cy={y(held)} r="3" className="release" />
      <line x1={x(lands)} x2={x(lands)} y1="2" y2={height - 2} className="lands" />
    </svg>
  );
}
