import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, Select, Slider, Switch, Text } from '@mantine/core';
import { whyNotMade } from '@sure-hand/core/edits';
import { fullName, swayControlId, type ControlId, type Song, type Sway } from '@sure-hand/core/song';
import { MOST_SWAY } from '@sure-hand/core/units';
import {
  pointsPrinted,
  printEdit,
  rateOf,
  rateWords,
  swayEdit,
  swayNow,
  swayTarget,
  swayWords,
  whyNoSway,
  withRate,
  type SwayRate,
} from '../hands/sways.js';
import { RATES } from '../hands/waves.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { NumberField } from '../parts/NumberField.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething, takenInHand } from '../store/viewSlice.js';
import { standsLow } from './standsLow.js';
import { WaveSelect } from './WaveSelect.js';
import { useDraft } from './useDraft.js';

const PER_CENT = 100;
const TURN_DEGREES = 360;
const MOST_HZ = 20;
const LEAST_HZ = 0.01;
const MOST_SEED = 9999;

/** The sway of the control in hand: heard and drawn as it is chosen, kept, taken away, made points. */
export function SwaySheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand } = useViewParts('inHand');
  const id = swayTarget(inHand);
  const [isHigh] = useState(() => standsLow(inHand));
  const name = id ? fullName(song, id) : '';
  const why = id ? whyNoSway(song, id) : 'Take a control in hand first.';
  if (id && !why) return <SwayOf key={id} song={song} id={id} isHigh={isHigh} onClose={onClose} />;
  return (
    <Sheet name={`Sway${name && ` of ${name}`}`} onClose={onClose} className={isHigh ? 'sheet-high' : ''}>
      <Text fz="sm" role="status" data-testid="sway-says">
        {why}
      </Text>
    </Sheet>
  );
}

type Of = { readonly song: Song; readonly id: ControlId };

function SwayOf({ song, id, isHigh, onClose }: Of & { isHigh: boolean; onClose: () => void }): ReactNode {
  const [asked, setAsked] = useState(() => swayNow(song, id));
  const edit = useMemo(() => swayEdit(song, id, asked), [song, id, asked]);
  const kept = useDraft(edit);
  const has = song.lanes[id]?.sway !== undefined;
  const change = (changes: Partial<Sway>): void => setAsked((was) => ({ ...was, ...changes }));
  const keep = (): void => {
    if (edit) kept(`${swayWords(song, id, asked)} Undo takes it back.`);
    onClose();
  };
  return (
    <Sheet
      name={`Sway of ${fullName(song, id)}`}
      className={isHigh ? 'sheet-sway sheet-high' : 'sheet-sway'}
      onClose={onClose}
      onEnter={keep}
    >
      <Group gap="sm" align="flex-end" wrap="nowrap">
        <Course song={song} asked={asked} change={change} setAsked={setAsked} />
        <Switch
          size="sm"
          mb={6}
          label="On"
          checked={asked.on}
          onChange={(event) => change({ on: event.currentTarget.checked })}
        />
      </Group>
      <Dial
        label="Depth, % either side"
        value={PER_CENT * asked.depth}
        most={PER_CENT * MOST_SWAY}
        step={0.5}
        onValue={(depth) => change({ depth: depth / PER_CENT })}
      />
      {asked.wave !== 'steps' && (
        <Dial
          label="Phase, °"
          value={((TURN_DEGREES * asked.phase) % TURN_DEGREES) + (asked.phase < 0 ? TURN_DEGREES : 0)}
          most={TURN_DEGREES}
          step={5}
          onValue={(phase) => change({ phase: phase / TURN_DEGREES })}
        />
      )}
      <Text fz="sm" mt={8} role="status" data-testid="sway-says">
        {swayWords(song, id, asked)}
      </Text>
      <Group gap="xs" mt={8}>
        <Button size="xs" onClick={keep} disabled={!edit}>
          {has ? 'Keep' : 'Let it sway'}
        </Button>
        {has && <OfOneThere song={song} id={id} onClose={onClose} />}
      </Group>
      {has && !edit && asked.on && <Printing song={song} id={id} onClose={onClose} />}
    </Sheet>
  );
}

/** What can be done with a sway that is there. */
function OfOneThere({ song, id, onClose }: Of & { onClose: () => void }): ReactNode {
  const { drafting } = useOpenSong();
  const dispatch = useAppDispatch();
  const takeAway = (): void => {
    drafting.keep({ kind: 'sway', control: id, sway: null });
    dispatch(didSomething(`${fullName(song, id)} sways no more. Undo takes it back.`));
    onClose();
  };
  return (
    <>
      <Button size="xs" variant="default" onClick={() => dispatch(takenInHand(swayControlId(id)))}>
        Ride its depth
      </Button>
      <Button size="xs" variant="default" onClick={takeAway}>
        Take it away
      </Button>
    </>
  );
}

/** Its wave, and how often it comes round. */
function Course({
  song,
  asked,
  change,
  setAsked,
}: {
  song: Song;
  asked: Sway;
  change: (changes: Partial<Sway>) => void;
  setAsked: (sway: Sway) => void;
}): ReactNode {
  const rate = rateOf(song, asked);
  // One that came from outside may be none of those to choose from.
  const other = rate ? [] : [{ value: 'other', label: rateWords(song, asked) }];
  return (
    <>
      <WaveSelect label="Wave" value={asked.wave} onWave={(wave) => change({ wave })} />
      <Select
        size="xs"
        w={110}
        label="One cycle"
        allowDeselect={false}
        value={rate ?? 'other'}
        data={[...other, ...RATES.map((value) => ({ value, label: value })), { value: 'hz', label: 'in Hz' }]}
        onChange={(value) => value && value !== 'other' && setAsked(withRate(song, asked, value as SwayRate))}
      />
      <CourseNumber asked={asked} change={change} />
    </>
  );
}

/** The number that belongs to it: how often a second, or which of the random steps. */
function CourseNumber({ asked, change }: { asked: Sway; change: (changes: Partial<Sway>) => void }): ReactNode {
  return (
    <>
      {asked.hz !== undefined && (
        <NumberField
          w={88}
          label="Rate, Hz"
          value={asked.hz}
          min={LEAST_HZ}
          max={MOST_HZ}
          step={0.1}
          decimalScale={2}
          onValue={(hz) => change({ hz })}
        />
      )}
      {asked.wave === 'steps' && (
        <NumberField
          w={96}
          label="Which steps"
          value={asked.seed ?? 1}
          min={1}
          max={MOST_SEED}
          step={1}
          allowDecimal={false}
          onValue={(seed) => change({ seed: Math.round(seed) })}
        />
      )}
    </>
  );
}

/** A number that is dragged, heard and drawn meanwhile, or typed. */
function Dial({
  label,
  value,
  most,
  step,
  onValue,
}: {
  label: string;
  value: number;
  most: number;
  step: number;
  onValue: (value: number) => void;
}): ReactNode {
  const shown = Math.round(value * 10) / 10;
  return (
    <Group gap="sm" mt={8} wrap="nowrap" align="center">
      <Text fz="xs" w={110}>
        {label}
      </Text>
      <Slider
        className="sway-dial"
        size="sm"
        color="gray"
        label={null}
        thumbLabel={label}
        value={shown}
        min={0}
        max={most}
        step={step}
        onChange={onValue}
      />
      <NumberField
        w={84}
        aria-label={label}
        value={shown}
        min={0}
        max={most}
        step={step}
        decimalScale={1}
        onValue={onValue}
      />
    </Group>
  );
}

/** A sway made points of the curve, over the range or whole; how many is said first. */
function Printing({ song, id, onClose }: Of & { onClose: () => void }): ReactNode {
  const { drafting } = useOpenSong();
  const { range } = useViewParts('range');
  const dispatch = useAppDispatch();
  const [isOpen, setOpen] = useState(false);
  const choices = useMemo(
    () =>
      isOpen
        ? [...(range ? [{ where: range, what: 'over the range' }] : []), { where: null, what: 'all of it' }].map(
            ({ where, what }) => {
              const edit = printEdit(id, where);
              const wrong = whyNotMade(song, edit);
              return { what, edit, wrong, points: wrong ? 0 : pointsPrinted(song, id, where) };
            },
          )
        : [],
    [isOpen, song, id, range],
  );
  if (!isOpen)
    return (
      <Button size="compact-xs" variant="subtle" color="gray" mt={6} onClick={() => setOpen(true)}>
        Print it into points…
      </Button>
    );
  return (
    <Group gap="xs" mt={8} align="center">
      <Text fz="sm">Print</Text>
      {choices.map(({ what, edit, wrong, points }) =>
        wrong ? (
          <Text key={what} fz="sm" className="trouble">
            {wrong}
          </Text>
        ) : (
          <Button
            key={what}
            size="xs"
            variant="default"
            onClick={() => {
              drafting.keep(edit);
              dispatch(didSomething(`The sway of ${fullName(song, id)} is ${points} points now, ${what}.`));
              onClose();
            }}
          >
            {what}: {points} points
          </Button>
        ),
      )}
    </Group>
  );
}
