import { Fragment, useState, type KeyboardEvent, type ReactNode } from 'react';
import { Text, TextInput } from '@mantine/core';
import {
  channelNamed,
  channelOf,
  controlOf,
  controlsOfChannel,
  insertName,
  isParked,
  isSafe,
  type Channel,
  type Control,
  type Song,
} from '@sure-hand/core/song';
import { quoted } from '@sure-hand/core/units';
import { insertNamed } from '../hands/inserts.js';
import { hasCurve } from '../hands/laneFilter.js';
import { PlainButton } from '../parts/PlainButton.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../store/store.js';
import { stackToggled, takenInHand } from '../store/viewSlice.js';
import { standsLow } from './standsLow.js';

/** What stands on a lane, in words: how many points, trim that waits, guards. */
function standsOn(song: Song, id: string): string {
  const lane = song.lanes[id];
  const points = lane?.points.length ?? 0;
  return [
    points ? `${points} ${points === 1 ? 'point' : 'points'}` : 'no curve',
    lane?.trim.length ? 'trim waits' : '',
    isSafe(song, id) ? 'safe' : '',
    isParked(song, id) ? 'parked' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** The lanes of a channel, those with curves first, in the order they had as it was asked: none moves away under the hand. */
function useLanes(
  song: Song,
  channel: Channel | null,
  sought: string,
): { found: readonly Control[]; first: ReadonlySet<string> } {
  const [first] = useState(
    () =>
      new Set((channel ? controlsOfChannel(song, channel) : []).map(({ id }) => id).filter((id) => hasCurve(song, id))),
  );
  const own = channel ? controlsOfChannel(song, channel) : [];
  const all = [...own.filter(({ id }) => first.has(id)), ...own.filter(({ id }) => !first.has(id))];
  const words = sought.toLowerCase().split(/\s+/);
  return { found: all.filter(({ name }) => words.every((word) => name.toLowerCase().includes(word))), first };
}

/** The lanes of the channel in hand, those with curves first: found by name, taken in hand, kept open below each other. */
export function LanesSheet(props: { readonly onClose: () => void }): ReactNode {
  const inHand = useAppSelector((state) => state.view.inHand);
  // Of another channel they are others.
  return <LanesOf key={inHand ? channelNamed(inHand) : ''} {...props} />;
}

function LanesOf({ onClose }: { readonly onClose: () => void }): ReactNode {
  const dispatch = useAppDispatch();
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, stacked, front } = useViewParts('inHand', 'stacked', 'front');
  const [isHigh] = useState(() => standsLow(inHand));
  const [sought, setSought] = useState('');
  const [at, setAt] = useState(0);
  const channel = inHand ? channelOf(song, controlOf(song, inHand).channel)! : null;
  const { found, first } = useLanes(song, channel, sought);
  const open = channel ? (stacked[channel.key] ?? [front[channel.key]]) : [];
  const take = (one?: Control): void => {
    if (one) dispatch(takenInHand(one.id));
    onClose();
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (!step && event.key !== 'Enter') return;
    event.preventDefault();
    event.stopPropagation();
    if (step) return setAt(Math.min(found.length - 1, Math.max(0, at + step)));
    if (event.shiftKey && found[at]) dispatch(stackToggled(found[at].id));
    else take(found[at]);
  };
  return (
    <Sheet
      name={channel ? `Lanes of ${channel.name}` : 'Lanes'}
      className={isHigh ? 'sheet-lanes sheet-high' : 'sheet-lanes'}
      onClose={onClose}
    >
      <TextInput
        size="xs"
        autoFocus
        aria-label="Find a lane"
        placeholder="Find a lane; Enter takes it, Shift+Enter keeps it open"
        value={sought}
        onChange={(event) => {
          setSought(event.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={onKeyDown}
      />
      <div className="lanes-found" role="group" aria-label="Lanes found">
        {found.map((one, i) => (
          <Fragment key={one.id}>
            <GroupOf channel={channel!} one={one} before={found[i - 1]} />
            <FoundLane
              one={one}
              says={standsOn(song, one.id)}
              looks={{ isAt: i === at, hasCurve: first.has(one.id), isOpen: open.includes(one.id) }}
              onTake={() => take(one)}
            />
          </Fragment>
        ))}
        {!found.length && (
          <Text fz="sm">{sought ? `No lane of it is called ${quoted(sought)}.` : 'Nothing is in hand.'}</Text>
        )}
      </div>
    </Sheet>
  );
}

/** The insert that a run of lanes is of, as its heading. */
function GroupOf({ channel, one, before }: { channel: Channel; one: Control; before: Control | undefined }): ReactNode {
  const [slot, was] = [one, before].map((control) => insertNamed(control?.id ?? null)?.slot);
  const insert = channel.inserts.find((each) => each.slot === slot);
  if (!insert || slot === was) return null;
  return <p className="lane-group">{insertName(channel.inserts, insert)}</p>;
}

function FoundLane({
  one,
  says,
  looks,
  onTake,
}: {
  one: Control;
  says: string;
  looks: { isAt: boolean; hasCurve: boolean; isOpen: boolean };
  onTake: () => void;
}): ReactNode {
  const dispatch = useAppDispatch();
  const { isAt, isOpen } = looks;
  return (
    <div className={isAt ? 'lane-found is-at' : 'lane-found'}>
      <PlainButton className="lane-found-name" onClick={onTake}>
        <span className={looks.hasCurve ? 'has-curve' : ''}>{one.name}</span>
        <span className="quiet">{says}</span>
      </PlainButton>
      <PlainButton
        className={isOpen ? 'small is-on' : 'small'}
        aria-pressed={isOpen}
        aria-label={`Keep ${one.name} open`}
        onClick={() => dispatch(stackToggled(one.id))}
      >
        {isOpen ? 'Open' : 'Keep open'}
      </PlainButton>
    </div>
  );
}
