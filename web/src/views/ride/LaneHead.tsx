import type { ReactNode } from 'react';
import { IconX } from '@tabler/icons-react';
import { controlOf, type Song } from '@sure-hand/core/song';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';
import { useAppDispatch, useAppSelector } from '../../store/store.js';
import { laneChosen, stackToggled, takenInRow } from '../../store/viewSlice.js';
import { LaneFigures, LaneMarks, SpokenCap } from './laneParts.js';
import { ModeMenu } from './ModeMenu.js';
import type { ChannelRow } from './rideLayout.js';

/** The head of a lane that is open below its channel's first: its name, its marks, where it stands; and what puts it away. */
export function LaneHead({ song, row, hue }: { song: Song; row: ChannelRow; hue: string }): ReactNode {
  const dispatch = useAppDispatch();
  const isInHand = useAppSelector((state) => state.view.inHand === row.control);
  const isChosen = useAppSelector((state) => state.view.chosen.includes(row.control));
  const { name } = controlOf(song, row.control);
  const states = [
    row.beside === null ? 'is-tall is-below' : 'is-below is-beside',
    isInHand && 'is-in-hand',
    isChosen && 'is-chosen',
  ].filter(Boolean);
  return (
    <div
      className={['row-head', ...states].join(' ')}
      style={{ top: row.top, height: row.height, borderLeftColor: hue }}
      data-testid={row.beside === null ? `lane-${row.control}` : `member-${row.beside}-${row.channel.key}`}
    >
      <div className="row-line">
        <PlainButton
          className="row-name"
          aria-label={`${row.channel.name} ${name.toLowerCase()}`}
          onClick={(event) => dispatch(event.ctrlKey || event.metaKey ? laneChosen(row.control) : takenInRow(row))}
        >
          {row.beside === null ? name : row.channel.name}
        </PlainButton>
        <SpokenCap row={row} />
        <span className="marks">
          <LaneMarks id={row.control} />
        </span>
        {row.beside === null ? <PutAway row={row} name={name} /> : <ModeMenu song={song} row={row} />}
      </div>
      <LaneFigures control={controlOf(song, row.control)} />
    </div>
  );
}

function PutAway({ row, name }: { row: ChannelRow; name: string }): ReactNode {
  const dispatch = useAppDispatch();
  return (
    <Tip label="Put this lane away (Alt+L)">
      <PlainButton
        className="small put-away"
        aria-label={`Put ${row.channel.name} ${name.toLowerCase()} away`}
        onClick={() => dispatch(stackToggled(row.control))}
      >
        <IconX size={12} />
      </PlainButton>
    </Tip>
  );
}
