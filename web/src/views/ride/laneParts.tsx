import { useEffect, useState, type ReactNode } from 'react';
import {
  controlOf,
  isParked,
  isSafe,
  layerScale,
  swayOf,
  withTrimAt,
  type Control,
  type Song,
} from '@sure-hand/core/song';
import { printDb, travelOf, type Seconds, type ValueScale, speakValue } from '@sure-hand/core/units';
import { heardCap } from '../../hands/heardCap.js';
import type { OpenSong } from '../../open/openSong.js';
import { useOfHands } from '../../open/OpenSongProvider.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { useAppDispatch } from '../../store/store.js';
import { laneChosen, takenInHand, takenInRow } from '../../store/viewSlice.js';
import type { ChannelRow } from './rideLayout.js';

/** A lane of the channel in hand, with the value it has now; a click brings it to the front, with Ctrl it is mended with the others. */
export function LaneButton({ control, isFront }: { control: Control; isFront: boolean }): ReactNode {
  const dispatch = useAppDispatch();
  return (
    <PlainButton
      className={isFront ? 'lane is-front' : 'lane'}
      aria-pressed={isFront}
      onClick={(event) => dispatch(event.ctrlKey || event.metaKey ? laneChosen(control.id) : takenInHand(control.id))}
    >
      <span className="lane-name" title={control.name}>
        <span className="is-cut">{control.name}</span>
        <LaneMarks id={control.id} />
      </span>
      <LaneFigures control={control} />
    </PlainButton>
  );
}

/** Where a lane stands, kept up to date while the song moves. */
export function LaneFigures({ control }: { control: Control }): ReactNode {
  const [, again] = useState(0);
  const isMoving = useOfHands(({ session }) => session.isMoving);
  const figures = useOfHands((open) => laneFigures(open, control));
  useEffect(() => {
    if (!isMoving) return;
    const timer = setInterval(() => again((n) => n + 1), 400);
    return () => clearInterval(timer);
  }, [isMoving]);
  return <span className="figures">{figures}</span>;
}

/** Where a lane stands now, by its own scale; under trim the offset. */
function laneFigures({ session, control: { position } }: OpenSong, { id, scale }: Control): string {
  const { recorder, heardSong } = session;
  const value = heardCap(recorder, heardSong, id, position);
  return recorder.layerOf(id) === 'trim' ? offsetWords(heardSong, id, value, position) : scale.print(value);
}

/** An offset and what is heard with it: `+1.9 → −3.1 dB`. */
function offsetWords(song: Song, id: string, offset: number, t: Seconds): string {
  const result = withTrimAt(song, id, offset, t);
  return `${printDb(offset, true).replace(' dB', '')} → ${printDb(result)}`;
}

/** By shape: a lane that has a curve, is safe, parked, or has trim waiting. */
export function LaneMarks({ id }: { id: string }): ReactNode {
  const song = useOfHands(({ session }) => session.recorder.song);
  const isAside = useOfHands(({ session }) => session.recorder.tryout.held.has(id));
  const shapes = [
    ...(isAside ? [['held aside', <path key="aside" d="M1 9V4l8-3v8z" />] as const] : []),
    ...(song.lanes[id]?.points.length ? [['has a curve', <path key="c" d="M0 8c3 0 3-6 5-6s2 6 5 6" />] as const] : []),
    ...(swayOf(song, id) ? [['sways', <path key="s" d="M0 5q2.5-7 5 0t5 0" strokeDasharray="1.5 1" />] as const] : []),
    ...(isSafe(song, id) ? [['safe', <circle key="safe" cx="5" cy="5" r="3.5" />] as const] : []),
    ...(isParked(song, id) ? [['parked', <path key="p" d="M0 5h10" strokeDasharray="1.5 2.5" />] as const] : []),
    ...(song.lanes[id]?.trim.length ? [['trim waits', <path key="t" d="M1 9 9 1M1 5l4-4M5 9l4-4" />] as const] : []),
  ];
  return shapes.map(([label, shape]) => (
    <svg key={label} width="10" height="10" role="img" aria-label={label} fill="none" stroke="currentColor">
      {shape}
    </svg>
  ));
}

/** Where a row's cap stands, by the scale of the layer in hand. */
function capOf({ session, control }: OpenSong, row: ChannelRow): readonly [ValueScale, number] {
  const { recorder } = session;
  const cap = controlOf(recorder.song, row.control);
  const scale = layerScale(cap, recorder.layerOf(row.control));
  return [scale, heardCap(recorder, session.heardSong, row.control, control.position)];
}

/** The cap of a row for assistive technology: a slider with a spoken value, moved by the same keys. */
export function SpokenCap({ row }: { row: ChannelRow }): ReactNode {
  const dispatch = useAppDispatch();
  const name = useOfHands(({ session }) => controlOf(session.recorder.song, row.control).name.toLowerCase());
  const spoken = useOfHands((open) => speakValue(...capOf(open, row)));
  const percent = useOfHands((open) => {
    const [{ law }, value] = capOf(open, row);
    return Math.round(100 * travelOf(law, value));
  });
  return (
    <div
      className="spoken-cap"
      role="slider"
      tabIndex={0}
      aria-label={`${row.channel.name} ${name}`}
      aria-orientation="vertical"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={percent}
      aria-valuetext={spoken}
      onFocus={() => dispatch(takenInRow(row))}
    />
  );
}
