import type { ReactNode } from 'react';
import { Menu } from '@mantine/core';
import { IconChevronDown, IconX } from '@tabler/icons-react';
import { channelOf, type Song } from '@sure-hand/core/song';
import { throwsOf } from '../../hands/familyWords.js';
import { NO_FILTER, isFiltering } from '../../hands/laneFilter.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { askedFor, deskLooked, filtered, STRIP_PX, type StripPx } from '../../store/viewSlice.js';
import { familiesOf } from '../ride/rideLayout.js';
import { NameFilter } from '../ride/NameFilter.js';

const WIDTH_NAMES: Record<StripPx, string> = { 44: 'Throws', 88: 'One bar', 160: 'Four bars' };

/** Above the strips: which are looked at, what stands on their throws, how wide they are. */
export function DeskBar({ song, count }: { song: Song; count: number }): ReactNode {
  const dispatch = useAppDispatch();
  const { desk, filter } = useViewParts('desk', 'filter');
  const isNarrowed = isFiltering(filter) || desk.family !== null || desk.vca !== null;
  const throws = desk.throws === null ? null : throwsOf(song).get(desk.throws);
  return (
    <div className="desk-bar">
      <NameFilter id="strips-by-name" label="Strips by name" hint="Strips by name" />
      <FamilyMenu song={song} />
      <ThrowsMenu song={song} />
      <Widths />
      <span className="desk-words" role="status">
        {throws ? `${throws} on every strip that has one. ` : ''}
        {isNarrowed && `${count} of ${song.channels.length} strips.`}
      </span>
      {isNarrowed && (
        <PlainButton
          className="small"
          onClick={() => {
            dispatch(filtered(NO_FILTER));
            dispatch(deskLooked({ family: null, vca: null }));
          }}
        >
          <IconX size={13} /> All strips
        </PlainButton>
      )}
      <DeskActs song={song} />
    </div>
  );
}

function Widths(): ReactNode {
  const dispatch = useAppDispatch();
  const { desk } = useViewParts('desk');
  return (
    <div className="strip-widths" role="group" aria-label="Width of the strips">
      {STRIP_PX.map((px) => (
        <PlainButton
          key={px}
          className={desk.px === px ? 'small is-on' : 'small'}
          aria-pressed={desk.px === px}
          title={`${WIDTH_NAMES[px]} (Alt+W: the next width; Alt+Shift+W: of the one in hand)`}
          onClick={() => dispatch(deskLooked({ px, own: {} }))}
        >
          {WIDTH_NAMES[px]}
        </PlainButton>
      ))}
    </div>
  );
}

/** What can be done with strips from here: solos cleared, gangs and VCAs made, channels added and removed. */
function DeskActs({ song }: { song: Song }): ReactNode {
  const dispatch = useAppDispatch();
  const { control } = useOpenSong();
  const { chosen } = useViewParts('chosen');
  const soloed = song.channels.filter(({ solo }) => solo).length;
  return (
    <>
      {soloed > 0 && (
        <Tip label="No channel soloed any more (Alt+Shift+X)">
          <PlainButton className="small is-solo" onClick={() => control.clearSolos()}>
            {soloed} soloed: clear
          </PlainButton>
        </Tip>
      )}
      <Tip
        label={
          chosen.length
            ? 'Gangs the strips that are chosen (Alt+M)'
            : 'Ctrl+click on names chooses strips to gang; the list of gangs (Alt+M)'
        }
      >
        <PlainButton className="small" onClick={() => dispatch(askedFor({ what: 'gangs' }))}>
          {chosen.length ? `Gang ${chosen.length}…` : 'Gangs…'}
        </PlainButton>
      </Tip>
      <PlainButton
        className="small"
        title="VCA groups: made, changed, folded (Alt+V)"
        onClick={() => dispatch(askedFor({ what: 'vcas' }))}
      >
        VCAs…
      </PlainButton>
      <PlainButton
        className="small"
        title="Channels, buses, sends and outputs (Alt+B)"
        onClick={() => dispatch(askedFor({ what: 'channels' }))}
      >
        Channels…
      </PlainButton>
    </>
  );
}

function FamilyMenu({ song }: { song: Song }): ReactNode {
  const dispatch = useAppDispatch();
  const { desk } = useViewParts('desk');
  const vca = desk.vca === null ? null : channelOf(song, desk.vca)?.name;
  const words = desk.family ?? (vca ? `${vca} (VCA)` : 'All families');
  const look = (family: string | null, key: string | null): void => void dispatch(deskLooked({ family, vca: key }));
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <PlainButton
          className="small"
          aria-label={`Strips of: ${words}`}
          title={`Which strips are looked at: ${words}`}
        >
          <span className="is-cut">{words}</span> <IconChevronDown size={12} />
        </PlainButton>
      </Menu.Target>
      <Menu.Dropdown mah="min(420px, 60vh)" style={{ overflowY: 'auto' }}>
        <Menu.Item onClick={() => look(null, null)}>All families</Menu.Item>
        <Menu.Label>A family</Menu.Label>
        {familiesOf(song).map((family) => (
          <Menu.Item key={family} fw={desk.family === family ? 700 : 400} onClick={() => look(family, null)}>
            {family}
          </Menu.Item>
        ))}
        <Menu.Label>A VCA and its members</Menu.Label>
        {song.channels
          .filter(({ kind }) => kind === 'vca')
          .map(({ key, name }) => (
            <Menu.Item key={key} fw={desk.vca === key ? 700 : 400} onClick={() => look(null, key)}>
              {name}
            </Menu.Item>
          ))}
      </Menu.Dropdown>
    </Menu>
  );
}

function ThrowsMenu({ song }: { song: Song }): ReactNode {
  const dispatch = useAppDispatch();
  const { desk } = useViewParts('desk');
  const all = throwsOf(song);
  const words = desk.throws === null ? 'What is in hand' : (all.get(desk.throws) ?? '');
  return (
    // Its items take the focus one by one: a list that scrolls has to be reached by keys.
    <Menu position="bottom-start" menuItemTabIndex={0}>
      <Menu.Target>
        <PlainButton
          className={desk.throws === null ? 'small' : 'small is-on'}
          aria-label={`On the throws: ${words}`}
          title="What stands on the throws (Alt+T: the next one)"
        >
          <span className="is-cut">Throws: {words}</span> <IconChevronDown size={12} />
        </PlainButton>
      </Menu.Target>
      <Menu.Dropdown mah="min(420px, 60vh)" style={{ overflowY: 'auto' }}>
        <Menu.Item fw={desk.throws === null ? 700 : 400} onClick={() => dispatch(deskLooked({ throws: null }))}>
          What each has in hand
        </Menu.Item>
        <Menu.Label>On every strip</Menu.Label>
        {[...all].map(([like, name]) => (
          <Menu.Item
            key={like}
            fw={desk.throws === like ? 700 : 400}
            onClick={() => dispatch(deskLooked({ throws: like }))}
          >
            {name}
          </Menu.Item>
        ))}
      </Menu.Dropdown>
    </Menu>
  );
}
