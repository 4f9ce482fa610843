import type { ReactNode } from 'react';
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-react';
import type { Channel, Song } from '@sure-hand/core/song';
import { membersOf } from '../../hands/families.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';
import { useAppDispatch, useAppSelector } from '../../store/store.js';
import { membersToggled } from '../../store/viewSlice.js';

/** What opens the members of a VCA, or the sends that feed a bus, beside it: strips on the Desk, rows in Ride. */
export function Members({ song, channel }: { song: Song; channel: Channel }): ReactNode {
  const dispatch = useAppDispatch();
  const isOpen = useAppSelector((state) => state.view.desk.open.includes(channel.key));
  if (!isOpen && !membersOf(song, channel).length) return null;
  const what = channel.kind === 'vca' ? 'members' : 'sends';
  const words = isOpen ? `Put the ${what} of ${channel.name} away` : `The ${what} of ${channel.name} next to it`;
  return (
    <Tip label={words}>
      <PlainButton
        className="small members"
        aria-label={words}
        aria-expanded={isOpen}
        onClick={() => dispatch(membersToggled(channel.key))}
      >
        {isOpen ? <IconChevronLeft size={13} /> : <IconChevronRight size={13} />}
      </PlainButton>
    </Tip>
  );
}
