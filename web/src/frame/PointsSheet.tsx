import { useMemo, useState, type ReactNode } from 'react';
import { Button, Group, SegmentedControl, Text, TextInput } from '@mantine/core';
import type { Point, Shape } from '@sure-hand/core/curve';
import { whyNotMade, type LayerOf } from '@sure-hand/core/edits';
import { controlOf, guardOn, isSwitch, layerScale, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { parseValue } from '@sure-hand/core/units';
import { pickedOf, pickedThere, pointsWords } from '../hands/picking.js';
import { SHAPES, SHAPE_NAMES, changedPoints, pointsPickedOf, withShape } from '../hands/pickedPoints.js';
import { staysOf } from '../hands/reasonWords.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { KeptNumber } from '../parts/KeptNumber.js';
import { Sheet } from '../parts/Sheet.js';
import { TimeField } from '../parts/TimeField.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { didSomething, pointsPicked } from '../store/viewSlice.js';
import { standsLow } from './standsLow.js';

/** The picked points, typed: of one its exact time and value, of all of them the shape of what follows. Each is kept by itself. */
export function PointsSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const { picked, inHand } = useViewParts('picked', 'inHand');
  const [isHigh] = useState(() => standsLow(inHand));
  const [wrong, setWrong] = useState<string | null>(null);
  // Of several lanes it is the one in hand that is typed.
  const lane = useMemo(() => {
    const lanes = pickedThere(song, picked)?.lanes ?? [];
    return lanes.find(({ control: id }) => id === inHand) ?? lanes[0] ?? null;
  }, [song, picked, inHand]);
  const points = useMemo(() => (lane ? pointsPickedOf(song, lane) : []), [song, lane]);
  const className = isHigh ? 'sheet-high' : '';
  if (!lane || !points.length)
    return (
      <Sheet name="Picked points" className={className} onClose={onClose}>
        <Text fz="sm">Nothing is picked: click a point of the lane in hand, or pick them all with Ctrl+A.</Text>
      </Sheet>
    );
  const guard = guardOn(song, lane.control);
  const of: LayerOf = { control: lane.control, layer: lane.layer };
  const change = (how: (point: Point) => Point): void => {
    const edit = changedPoints(of, points, how);
    const sentence = guard ? staysOf(song, of.control, guard) : whyNotMade(song, edit);
    setWrong(sentence);
    if (sentence || !control.mend(edit).changed.length) return;
    dispatch(pointsPicked(pickedOf([{ ...of, times: [...new Set(points.map((one) => how(one).t))] }])));
    dispatch(didSomething(`${pointsWords(song, of, points.length)} changed.`));
  };
  return (
    <Sheet name={pointsWords(song, of, points.length)} className={className} onClose={onClose}>
      <Group gap="sm" align="flex-end" wrap="nowrap">
        {points.length === 1 && (
          <PlaceFields
            key={`${points[0]!.t} ${points[0]!.v}`}
            song={song}
            of={of}
            point={points[0]!}
            onChange={change}
            onWrong={setWrong}
          />
        )}
        {!isSwitch(controlOf(song, of.control)) && <ShapeFields points={points} onChange={change} />}
      </Group>
      {wrong && (
        <Text fz="sm" mt={8} maw={520} role="alert">
          {wrong}
        </Text>
      )}
    </Sheet>
  );
}

function PlaceFields({
  song,
  of,
  point,
  onChange,
  onWrong,
}: {
  song: Song;
  of: LayerOf;
  point: Point;
  onChange: (how: (point: Point) => Point) => void;
  onWrong: (sentence: string) => void;
}): ReactNode {
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const scale = layerScale(controlOf(song, of.control), of.layer);
  const [t, setT] = useState<number | null>(point.t);
  const [value, setValue] = useState(scale.print(point.v));
  const keep = (): void => {
    const read = value === scale.print(point.v) ? { ok: true as const, value: point.v } : parseValue(scale, value);
    if (!read.ok) return onWrong(read.sentence);
    if (t === null) return onWrong('That is no time: type a bar such as 17.3, or a time such as 1:02.5.');
    if (t !== point.t || read.value !== point.v) onChange((one) => ({ ...one, t, v: read.value }));
  };
  const onKeyDown = (event: React.KeyboardEvent): void => {
    if (event.key === 'Enter') keep();
  };
  return (
    <>
      <TimeField size="xs" w={130} label="Time" autoFocus map={map} t={point.t} onTime={setT} onKeyDown={onKeyDown} />
      <TextInput
        size="xs"
        w={110}
        label="Value"
        value={value}
        onChange={(event) => setValue(event.currentTarget.value)}
        onKeyDown={onKeyDown}
      />
      <Button size="xs" color="gray" variant="filled" onClick={keep}>
        Keep
      </Button>
    </>
  );
}

function ShapeFields({
  points,
  onChange,
}: {
  points: readonly Point[];
  onChange: (how: (point: Point) => Point) => void;
}): ReactNode {
  const shapes = new Set(points.map(({ shape }) => shape));
  const [only] = shapes;
  const bends = new Set(points.map(({ bend }) => bend));
  const isBent = shapes.size === 1 && (only === 'bend' || only === 's');
  return (
    <>
      <SegmentedControl
        size="xs"
        aria-label="The way to the next point"
        value={shapes.size === 1 ? only! : ''}
        onChange={(value) => onChange((one) => withShape(one, value as Shape))}
        data={SHAPES.map((value) => ({ value, label: SHAPE_NAMES[value] }))}
      />
      {isBent && (
        <KeptNumber
          label="Bend, −1 … 1"
          value={bends.size === 1 ? [...bends][0]! : 0}
          min={-1}
          max={1}
          step={0.1}
          decimalScale={2}
          onKeep={(bend) => onChange((one) => withShape(one, one.shape, bend))}
        />
      )}
    </>
  );
}
