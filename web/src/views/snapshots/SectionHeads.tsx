import type { ReactNode } from 'react';
import { useDroppable } from '@dnd-kit/core';
import type { sectionRanges } from '@sure-hand/core/edits';
import { PlainButton } from '../../parts/PlainButton.js';
import { Tip } from '../../parts/Tip.js';

type Sections = ReturnType<typeof sectionRanges>;

/** The song's sections across: chosen by a click to be placed on together, and where cards are let go of. */
export function SectionHeads({
  sections,
  length,
  chosen,
  over,
  onToggle,
}: {
  sections: Sections;
  length: number;
  chosen: readonly number[];
  over: { readonly section: number; readonly words: string } | null;
  onToggle: (start: number) => void;
}): ReactNode {
  return (
    <div className="section-columns">
      {sections.map(({ name, range }, i) => (
        <SectionColumn
          key={range[0]}
          section={i}
          name={name}
          left={`${(100 * range[0]) / length}%`}
          width={`${(100 * (range[1] - range[0])) / length}%`}
          isChosen={chosen.includes(range[0])}
          words={over?.section === i ? over.words : null}
          onToggle={() => onToggle(range[0])}
        />
      ))}
    </div>
  );
}

function SectionColumn({
  section,
  name,
  left,
  width,
  isChosen,
  words,
  onToggle,
}: {
  section: number;
  name: string;
  left: string;
  width: string;
  isChosen: boolean;
  words: string | null;
  onToggle: () => void;
}): ReactNode {
  const { setNodeRef, isOver } = useDroppable({ id: section });
  return (
    <div
      ref={setNodeRef}
      className={['section-column', isChosen ? 'is-chosen' : '', isOver ? 'is-over' : ''].join(' ')}
      style={{ left, width }}
      data-testid={`column-${section}`}
    >
      <Tip label={`${name}: chosen, snapshots are placed on it`}>
        <PlainButton className="section-name" aria-pressed={isChosen} onClick={onToggle}>
          {name || 'Song'}
        </PlainButton>
      </Tip>
      {words && <span className="section-drop">{words}</span>}
    </div>
  );
}
