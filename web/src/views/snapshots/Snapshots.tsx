import { useMemo, useRef, useState, type ReactNode } from 'react';
import { DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent, type DragOverEvent } from '@dnd-kit/core';
import { Button, Text } from '@mantine/core';
import { applyEdit, loggedLanes, sectionRanges } from '@sure-hand/core/edits';
import { recalledFrom, snapshotOf } from '@sure-hand/core/snapshots';
import { meterMap } from '@sure-hand/core/time';
import { leftAloneWords, controlsWords, placesWords, placingEdit, placingOf } from '../../hands/placing.js';
import { giveUpByEscape } from '../../hands/keys/pageKeys.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useOfMoment } from '../../open/useMoment.js';
import { useAppDispatch, useAppSelector, useViewParts } from '../../store/store.js';
import { askedFor, didSomething, placesChosen, placingMade, snapshotInHand } from '../../store/viewSlice.js';
import { usePasses } from '../passes/usePasses.js';
import { SnapshotPanel } from './SnapshotPanel.js';
import { SnapshotRow } from './SnapshotRow.js';
import { SectionHeads } from './SectionHeads.js';
import './snapshots.css';

/** A pointer that moves so far carries a card; less of it is a click. */
const CARRY_PX = 6;

/** The song's sections across, its snapshots under those they were taken in, and where each was placed; the one in hand beside them. */
export function Snapshots(): ReactNode {
  const song = useAppSelector((state) => state.song.song)!;
  const { snapshot: inHand, places } = useViewParts('snapshot', 'places');
  const dispatch = useAppDispatch();
  const { value: entries } = usePasses();
  const sections = useMemo(() => sectionRanges(song.sections, song.length), [song.sections, song.length]);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: CARRY_PX } }));
  const drop = useDrop();
  const own = snapshotOf(song, inHand ?? '') ?? null;
  const toggle = (start: number): void =>
    void dispatch(placesChosen(places.includes(start) ? places.filter((one) => one !== start) : [...places, start]));
  return (
    <main className="page snapshots">
      <DndContext
        sensors={sensors}
        accessibility={{ screenReaderInstructions: { draggable: 'Takes the snapshot in hand; Alt+P places it.' } }}
        onDragStart={drop.begin}
        onDragOver={drop.over}
        onDragEnd={drop.end}
        onDragCancel={drop.cancel}
      >
        <section className="snapshot-board" aria-label="Snapshots by section">
          <SectionHeads sections={sections} length={song.length} chosen={places} over={drop.says} onToggle={toggle} />
          <NowLine length={song.length} />
          <div className="snapshot-rows">
            {song.snapshots.map((snapshot) => (
              <SnapshotRow
                key={snapshot.key}
                snapshot={snapshot}
                sections={sections}
                entries={entries ?? []}
                isInHand={snapshot.key === inHand}
                onTake={() => dispatch(snapshotInHand(snapshot.key))}
              />
            ))}
            {song.snapshots.length === 0 && (
              <Text c="dimmed" p="md" maw={520}>
                There are no snapshots yet. N takes one of everything as it is at the line; its card then stands under
                its section, and is dragged, or placed with Alt+P, on another.
              </Text>
            )}
          </div>
          <div className="snapshot-foot">
            <Button size="xs" variant="default" onClick={() => dispatch(askedFor({ what: 'take' }))}>
              Take a snapshot here… (N)
            </Button>
            <Text fz="xs" c="dimmed" maw={520}>
              A card stands where it was taken. A line leads to each section it was placed on; broken: changed there
              since.
            </Text>
          </div>
        </section>
      </DndContext>
      {own && <SnapshotPanel key={own.key} snapshot={own} />}
    </main>
  );
}

/** Where the song stands, over its sections. */
function NowLine({ length }: { length: number }): ReactNode {
  const share = useOfMoment(({ control }) => Math.round((1000 * control.position) / length) / 10);
  return <span className="snapshot-line" style={{ left: `${share}%` }} aria-hidden />;
}

/** While a card is carried Esc puts it back: it goes to the keys of the song first, and what carries the card is told of it from there. */
function useCarrying(): { readonly begin: () => void; readonly end: () => void } {
  const unheard = useRef<() => void>(() => undefined);
  const end = (): void => {
    unheard.current();
    unheard.current = () => undefined;
  };
  const begin = (): void => {
    end();
    unheard.current = giveUpByEscape(() => {
      document.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', code: 'Escape' }));
      return true;
    });
  };
  return { begin, end };
}

/** What a card that is carried over a section would do there, and that it does it as it is let go of. */
function useDrop(): {
  readonly says: { readonly section: number; readonly words: string } | null;
  readonly begin: () => void;
  readonly over: (event: DragOverEvent) => void;
  readonly end: (event: DragEndEvent) => void;
  readonly cancel: () => void;
} {
  const { control, comparison } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const places = useAppSelector((state) => state.view.places);
  const dispatch = useAppDispatch();
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const [says, setSays] = useState<{ section: number; words: string } | null>(null);
  const sections = sectionRanges(song.sections, song.length);
  const placing = (key: string, section: number) => {
    // Let go over one of the chosen sections, it goes on all of them.
    const start = sections[section]!.range[0];
    const all = places.includes(start)
      ? sections.filter(({ range }) => places.includes(range[0]))
      : [sections[section]!];
    const ranges = all.map(({ range }) => range);
    const how = { how: 'place', edge: song.settings.edgeTime } as const;
    const edit = placingEdit({ snapshot: key }, ranges, how, `${snapshotOf(song, key)?.name} placed`)!;
    const { values } = recalledFrom(song, snapshotOf(song, key)!);
    return { edit, ranges, would: placingOf(song, edit, values, ranges[0]![0]) };
  };
  const meant = ({ active, over }: DragOverEvent | DragEndEvent): { key: string; section: number } | null =>
    over && snapshotOf(song, String(active.id)) ? { key: String(active.id), section: Number(over.id) } : null;
  const carrying = useCarrying();
  const isOver = (): void => void (carrying.end(), setSays(null));
  return {
    says,
    begin: carrying.begin,
    over: (event) => {
      const to = meant(event);
      if (!to) return setSays(null);
      const { would, ranges } = placing(to.key, to.section);
      const on = ranges.length > 1 ? `${ranges.length} sections, ` : '';
      const left = would.refused.length ? `, ${would.refused.length} left alone` : '';
      setSays({ section: to.section, words: `${on}${would.rows.length} change${left}` });
    },
    end: (event) => {
      isOver();
      const to = meant(event);
      if (!to) return;
      const { edit, ranges, would } = placing(to.key, to.section);
      const name = snapshotOf(song, to.key)!.name;
      const left = leftAloneWords(song, would);
      const before = song;
      const { changed } = control.mend(edit);
      dispatch(snapshotInHand(to.key));
      const what = changed.length ? `${name}, ${controlsWords(song, changed)}` : `${name}: nothing changed`;
      const says = `Placed: ${what} on ${placesWords(song, map, ranges)}. ${left}`.trim();
      if (!changed.length) return void dispatch(didSomething(says));
      dispatch(placingMade({ says, ranges }));
      comparison.passMade({ number: null, lanes: loggedLanes(before, applyEdit(before, edit).song, changed) });
    },
    cancel: isOver,
  };
}
