import { useMemo, type ReactNode } from 'react';
import { Table, Text, Tooltip, UnstyledButton } from '@mantine/core';
import { sectionRanges, standsAs, type LoggedLane, type PassSide, type Song } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import type { WholePass } from '@sure-hand/server';
import { useOpenSong } from '../../app/openSong.js';
import { layerName } from '../../hands/handSentence.js';
import { useLanePasses } from './usePasses.js';

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

const wroteIn = ({ pass, side, lane }: Version, [from, to]: Range): boolean =>
  side === 'after' &&
  pass.receipt.lanes.some((one) => one.control === lane.control && one.spans.some(([a, b]) => a < to && b > from));

/** Sections across, versions down: whose stands where, and a click lets another stand there. */
export function VersionGrid({ song, lane }: { song: Song; lane: LoggedLane }): ReactNode {
  const { control, comparison } = useOpenSong();
  const { value: passes, trouble } = useLanePasses(lane.control);
  const sections = useMemo(() => sectionRanges(song.sections, song.length), [song.sections, song.length]);
  const versions = useMemo(() => versionsIn(passes ?? [], lane), [passes, lane]);
  const kept = song.lanes[lane.control];
  const stands = useMemo(
    () =>
      versions.map(({ lane: one, side }) =>
        sections.map(({ range }) => standsAs(song, { ...one, points: one[side] }, range)),
      ),
    // Of the song only this lane counts.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [versions, sections, kept],
  );
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
            {sections.map(({ name, range }) => (
              <Table.Th key={range[0]} className="version-section">
                {name}
              </Table.Th>
            ))}
          </Table.Tr>
        </Table.Thead>
        <Table.Tbody>
          {versions.map((version, row) => {
            const { pass, side } = version;
            const name = side === 'before' ? 'Before them all' : `Pass ${pass.number}${pass.undone ? ' (undone)' : ''}`;
            return (
              <Table.Tr key={`${pass.number} ${side}`}>
                <Table.Td className="version-name">
                  {name}
                  {side === 'after' && pass.name ? `: ${pass.name}` : ''}
                </Table.Td>
                {sections.map(({ name: section, range }, column) => {
                  const isStanding = stands[row]![column]!;
                  const label = isStanding
                    ? `${name} stands in ${section}`
                    : `Let ${side === 'before' ? 'what was before them all' : name.toLowerCase()} stand in ${section}`;
                  return (
                    <Table.Td key={range[0]}>
                      <Tooltip label={label}>
                        <UnstyledButton
                          className={[
                            'version-cell',
                            isStanding ? 'is-standing' : '',
                            wroteIn(version, range) ? 'wrote' : '',
                          ].join(' ')}
                          aria-label={label}
                          aria-pressed={isStanding}
                          onClick={() => !isStanding && choose(version, range)}
                        />
                      </Tooltip>
                    </Table.Td>
                  );
                })}
              </Table.Tr>
            );
          })}
        </Table.Tbody>
      </Table>
      <Text fz="xs" c="dimmed">
        Filled: stands there now. Barred: that pass wrote there. A click lets a version stand in a section, with
        shoulders at its seams; it is one step of undo.
      </Text>
    </div>
  );
}
