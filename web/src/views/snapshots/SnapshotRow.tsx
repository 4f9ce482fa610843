import { useMemo, type ReactNode } from 'react';
import { useDraggable } from '@dnd-kit/core';
import type { sectionRanges } from '@sure-hand/core/edits';
import type { Snapshot } from '@sure-hand/core/song';
import type { LoggedPass } from '@sure-hand/server';
import { holdsWords, joinedTo, type Joined } from '../../hands/snapshotActs.js';
import { useAppSelector } from '../../store/store.js';
import { Tip } from '../../parts/Tip.js';

type Sections = ReturnType<typeof sectionRanges>;

/** A card so wide stands at its section; near the end it is drawn in. */
const CARD_PX = 208;

/** A snapshot's card under the section it was taken in, and a line to each section it was placed on: broken where that was changed since. */
export function SnapshotRow({
  snapshot,
  sections,
  entries,
  isInHand,
  onTake,
}: {
  snapshot: Snapshot;
  sections: Sections;
  entries: readonly LoggedPass[];
  isInHand: boolean;
  onTake: () => void;
}): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const joined = useMemo(() => joinedTo(song, snapshot.key, entries), [song, snapshot.key, entries]);
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({ id: snapshot.key });
  const per = (t: number): number => (100 * t) / song.length;
  const home = Math.max(
    0,
    sections.findIndex(({ range }) => snapshot.t >= range[0] && snapshot.t < range[1]),
  );
  const left = per(sections[home]!.range[0]);
  return (
    <div className="snapshot-row" data-testid={`snapshot-${snapshot.key}`}>
      <button
        ref={setNodeRef}
        type="button"
        className={['snapshot-card', isInHand ? 'is-in-hand' : '', isDragging ? 'is-carried' : ''].join(' ')}
        style={{
          left: `min(calc(${left}% + 4px), calc(100% - ${CARD_PX + 4}px))`,
          width: CARD_PX,
          transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
        }}
        {...attributes}
        {...listeners}
        aria-pressed={isInHand}
        onClick={onTake}
      >
        <span className="card-name">{snapshot.name}</span>
        <span className="card-words">{holdsWords(song, snapshot)}</span>
      </button>
      <div className="snapshot-joins">
        {joined.map((one) => (
          <JoinLine key={`line ${one.section}`} home={left} to={middleOf(sections, one, per)} stands={one.stands} />
        ))}
        {joined.map((one) => (
          <JoinMark key={one.section} one={one} sections={sections} per={per} />
        ))}
      </div>
    </div>
  );
}

const middleOf = (sections: Sections, { section }: Joined, per: (t: number) => number): number =>
  (per(sections[section]!.range[0]) + per(sections[section]!.range[1])) / 2;

/** From the card to a section it was placed on. */
function JoinLine({ home, to, stands }: { home: number; to: number; stands: boolean }): ReactNode {
  const [from, end] = [Math.min(home, to), Math.max(home, to)];
  return (
    <span
      className={stands ? 'join-line' : 'join-line is-broken'}
      style={{ left: `calc(${from}% + 20px)`, width: `calc(${end - from}% - 20px)` }}
      aria-hidden
    />
  );
}

/** The section that it was placed on, and whether it stands there as it was. */
function JoinMark({ one, sections, per }: { one: Joined; sections: Sections; per: (t: number) => number }): ReactNode {
  const { name, range } = sections[one.section]!;
  const words = one.stands ? 'as placed' : 'changed since';
  return (
    <Tip
      label={`Placed on ${name} by entry ${one.number} of the log; ${one.stands ? 'it stands there as placed' : 'the section was changed since'}`}
    >
      <span
        className={one.stands ? 'join-mark' : 'join-mark is-broken'}
        style={{ left: `calc(${per(range[0])}% + 2px)`, width: `calc(${per(range[1] - range[0])}% - 4px)` }}
        data-testid={`joined-${one.section}`}
      >
        {words}
      </span>
    </Tip>
  );
}
