import { useMemo, useState, type ReactNode } from 'react';
import { Button, Table, Text, UnstyledButton } from '@mantine/core';
import { sectionRanges, versionsInRange, type LoggedLane, type PassSide } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import type { WholePass } from '@sure-hand/server';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { entryTitle } from '../../hands/entryWords.js';
import { layerName } from '../../hands/reasonWords.js';
import { Tip } from '../../parts/Tip.js';
import { useLanePasses } from './usePasses.js';

/** So many versions are shown at first, and more of them with each asking. */
const AT_ONCE = 30;

/** One state the lane has been in: as a pass left it, or as the first one found it. */
type Version = { readonly pass: WholePass; readonly side: PassSide; readonly lane: LoggedLane };

/** Every version of a lane's layer, newest first; what stood before all passes comes last. */
function versionsIn(passes: readonly WholePass[], { control, layer }: LoggedLane): Version[] {
  const own = passes.flatMap((pass) => {
    const lane = pass.lanes.find((one) => one.control === control && one.layer === layer);
    return lane ? [{ pass, side: 'after' as const, lane }] : [];
  });
  const first = own.at(-1);
  return first ? [...own, { ...first, side: 'before' }] : [];
}

/** What is told of each section: which versions differ there, and whose stands. */
type Told = ReturnType<typeof versionsInRange>;
type SectionRange = ReturnType<typeof sectionRanges>[number];

/** What the versions of a lane come to in each section. */
function useTold(
  song: Song,
  lane: LoggedLane,
  versions: readonly Version[],
  sections: readonly SectionRange[],
): Told[] {
  const kept = song.lanes[lane.control];
  return useMemo(
    () => {
      const states = versions.map(({ lane: one, side }) => ({ points: one[side], rest: one.rest }));
      return sections.map(({ range }) => versionsInRange(song, lane, states, range));
    },
    // Of the song only this lane counts.
    // oxlint-disable-next-line react/exhaustive-deps
    [versions, sections, kept],
  );
}

/** Sections across, versions down: whose stands where, and a click lets another stand there. */
export function VersionGrid({ song, lane }: { song: Song; lane: LoggedLane }): ReactNode {
  const { control, comparison } = useOpenSong();
  const [most, setMost] = useState(AT_ONCE);
  const { value: passes, trouble, hasOlder } = useLanePasses(lane.control, most);
  const sections = useMemo(() => sectionRanges(song.sections, song.length), [song.sections, song.length]);
  const versions = useMemo(() => versionsIn(passes ?? [], lane), [passes, lane]);
  const told = useTold(song, lane, versions, sections);
  const choose = ({ pass, side, lane: one }: Version, range: Range): void => {
    comparison.asItStands();
    control.bringBack(pass.number, [one], side, range);
  };
  if (trouble) return <Text c="dimmed">{trouble}</Text>;
  return (
    <div className="version-grid">
      <Text fz="sm" fw={700}>
        Whose {layerName(song, lane.control, lane.layer)} stands where
      </Text>
      <Table withRowBorders={false} verticalSpacing={2} horizontalSpacing={4} fz="xs" layout="fixed">
        <Table.Thead>
          <Table.Tr>
            <Table.Th className="version-name" />
            {sections.map(({ name, range }, column) => (
              <Table.Th key={range[0]} className="version-section">
                {name}
                {told[column]?.stands === null && <span className="version-since">since</span>}
              </Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {versions.map((version, row) => (
            <VersionRow
              key={`${version.pass.number} ${version.side}`}
              {...{ version, row, sections, told, hasOlder }}
              onChoose={(range) => choose(version, range)}
            />
          ))}
        </Table.Tbody>
      </Table>
      {hasOlder && (
        <Button size="xs" variant="default" my="xs" onClick={() => setMost(most + AT_ONCE)}>
          {AT_ONCE} older versions
        </Button>
      )}
      <Text fz="xs" c="dimmed">
        A block: this pass changed the section; filled: that is what stands there now. A thin line: as in the row below.
        “since” over a section: it was changed by hand after all of them. A click on a block lets that version stand in
        the section, with shoulders at its seams; it is one step of undo.
      </Text>
    </div>
  );
}

type RowProps = {
  readonly version: Version;
  readonly row: number;
  readonly sections: readonly SectionRange[];
  readonly told: readonly Told[];
  /** There are versions before the first of these. */
  readonly hasOlder: boolean;
  readonly onChoose: (range: Range) => void;
};

/** One version over all sections. */
function VersionRow({ version: { pass, side }, row, sections, told, hasOlder, onChoose }: RowProps): ReactNode {
  const name =
    side === 'before'
      ? `Before ${hasOlder ? 'these' : 'them all'}`
      : `${entryTitle(pass)}${pass.undone ? ' (undone)' : ''}`;
  return (
    <Table.Tr>
      <Table.Td className="version-name">
        {name}
        {side === 'after' && pass.name ? `: ${pass.name}` : ''}
      </Table.Td>
      {sections.map(({ name: section, range }, column) => (
        <Table.Td key={range[0]}>
          <VersionCell
            told={told[column]!}
            row={row}
            name={name}
            section={section}
            isFirst={side === 'before'}
            onChoose={() => onChoose(range)}
          />
        </Table.Td>
      ))}
    </Table.Tr>
  );
}

/** One version in one section: a block where it made a difference, filled where it is what stands there; else a thin line. */
function VersionCell({
  told: { differs, stands },
  row,
  name,
  section,
  isFirst,
  onChoose,
}: {
  told: Told;
  row: number;
  name: string;
  section: string;
  isFirst: boolean;
  onChoose: () => void;
}): ReactNode {
  const isStanding = stands === row;
  if (!differs[row] && !isStanding && !isFirst)
    return <span className="version-alike" role="img" aria-label={`${name} left ${section} as it was`} />;
  const label = isStanding
    ? `${name} stands in ${section}`
    : `Let ${isFirst ? `what was ${name.toLowerCase()}` : name.toLowerCase()} stand in ${section}`;
  return (
    <Tip label={label}>
      <UnstyledButton
        className={['version-cell', isStanding ? 'is-standing' : ''].join(' ')}
        aria-label={label}
        aria-pressed={isStanding}
        onClick={() => !isStanding && onChoose()}
      />
    </Tip>
  );
}
