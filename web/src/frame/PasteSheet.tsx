import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { Button, Group, MultiSelect, SegmentedControl, Text } from '@mantine/core';
import { columnsOf, pieceFor, mappingBetween } from '@sure-hand/core/curve';
import type { LayerOf } from '@sure-hand/core/edits';
import type { LanePiece, Read } from '@sure-hand/core/formats';
import { controlOf, layerLaw, layerScale, type Song } from '@sure-hand/core/song';
import { valueOf, type Seconds } from '@sure-hand/core/units';
import { SYSTEM_CLIPBOARD, lanesFor, mappingTo, mappingWords, pasteEdit, readCopied } from '../hands/clipboard.js';
import { layerOf, togetherWith } from '../hands/picking.js';
import { layerName } from '../hands/reasonWords.js';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { NumberField } from '../parts/NumberField.js';
import { Sheet } from '../parts/Sheet.js';
import { useAppSelector, useViewParts } from '../store/store.js';
import { standsLow } from './standsLow.js';
import { useDraft } from './useDraft.js';

type Where = 'line' | 'sections';

/** What a piece goes between on a lane it comes to: `L 40 … R 10`. */
function reachWords(song: Song, piece: LanePiece, of: LayerOf): string {
  const law = layerLaw(song, of.control, of.layer);
  const mapping = mappingBetween(piece.law, law);
  const placed = pieceFor(
    { points: piece.points, law: piece.law, rest: 0 },
    [0, piece.length],
    { law, span: [0, piece.length] },
    mapping,
  );
  const { x } = columnsOf(placed, law);
  const { print } = layerScale(controlOf(song, of.control), of.layer);
  const [low, high] = [x.reduce((a, b) => Math.min(a, b), 1), x.reduce((a, b) => Math.max(a, b), 0)];
  return low === high ? print(valueOf(law, low)) : `${print(valueOf(law, low))} … ${print(valueOf(law, high))}`;
}

/** How a piece comes to the lanes it is put on, each by its name, before it is kept. */
function mappedWords(song: Song, piece: LanePiece, lanes: readonly LayerOf[]): string {
  const shown = lanes.slice(0, 3).map((of) => {
    const how = mappingWords(mappingTo(song, piece, of)!);
    return `${layerName(song, of.control, of.layer)} goes ${reachWords(song, piece, of)}${how}`;
  });
  const more = lanes.length > 3 ? ` and ${lanes.length - 3} more` : '';
  return `${piece.length.toFixed(2)} s of ${piece.name}: ${shown.join('; ')}${more}.`;
}

/** What was copied, as soon as the browser has given it. */
function useCopied(): Read<LanePiece> | null {
  const [read, setRead] = useState<Read<LanePiece> | null>(null);
  useEffect(() => {
    let isOpen = true;
    void readCopied(SYSTEM_CLIPBOARD).then((next) => isOpen && setRead(next));
    return () => void (isOpen = false);
  }, []);
  return read;
}

/** Where a piece is to go: at the line or in sections, each time so often. */
type Places = { readonly where: Where; readonly sections: readonly string[]; readonly count: number };

function timesOf({ where, sections, count }: Places, line: Seconds, length: Seconds): Seconds[] {
  const starts = where === 'line' ? [line] : sections.map(Number).sort((a, b) => a - b);
  return starts.flatMap((t) => Array.from({ length: count }, (_, i) => t + i * length));
}

function saysOf(song: Song, read: Read<LanePiece> | null, goals: readonly LayerOf[]): string {
  if (!read) return 'Looking at what was copied…';
  if (!read.ok) return read.sentence;
  if (!goals.length) return `${read.value.name} is a switch, which is pasted only to switches.`;
  return mappedWords(song, read.value, goals);
}

/** What was copied put on the lanes in hand: at the line, or in sections, once or several times; how it comes to them is said first. */
export function PasteSheet({ onClose }: { readonly onClose: () => void }): ReactNode {
  const { control } = useOpenSong();
  const song = useAppSelector((state) => state.song.song)!;
  const { inHand, chosen } = useViewParts('inHand', 'chosen');
  const [isHigh] = useState(() => standsLow(inHand));
  const read = useCopied();
  const [places, setPlaces] = useState<Places>({ where: 'line', sections: [], count: 1 });
  const [line] = useState(() => control.position);
  const piece = read?.ok ? read.value : null;
  const goals = useMemo(() => {
    if (!inHand || !piece) return [];
    const ids = togetherWith(inHand, chosen);
    return lanesFor(
      song,
      piece,
      ids.map((id) => layerOf(song, id)),
    );
  }, [song, piece, inHand, chosen]);
  const edit = useMemo(
    () => piece && pasteEdit(song, piece, goals, timesOf(places, line, piece.length)),
    [song, piece, goals, places, line],
  );
  const kept = useDraft(edit);
  const keep = (): void => {
    if (!edit || !piece) return;
    const { where, sections, count } = places;
    const to = where === 'sections' ? `, in ${sections.length} ${sections.length === 1 ? 'section' : 'sections'}` : '';
    const lane = goals.length > 1 ? `${goals.length} lanes` : layerName(song, goals[0]!.control, goals[0]!.layer);
    kept(`${piece.name} pasted to ${lane}${to}${count > 1 ? `, ${count} times each` : ''}.`);
    onClose();
  };
  return (
    <Sheet name="Paste" className={isHigh ? 'sheet-high' : ''} onClose={onClose} onEnter={keep}>
      <Group gap="sm" align="flex-end" wrap="nowrap">
        <PlaceFields song={song} places={places} onPlaces={setPlaces} />
        <Button size="xs" onClick={keep} disabled={!edit}>
          Paste
        </Button>
      </Group>
      <Text fz="sm" mt={8} maw={620} role="status" data-testid="paste-says">
        {saysOf(song, read, goals)}
      </Text>
    </Sheet>
  );
}

function PlaceFields({
  song,
  places,
  onPlaces,
}: {
  song: Song;
  places: Places;
  onPlaces: (places: Places) => void;
}): ReactNode {
  const { where, sections, count } = places;
  return (
    <>
      <SegmentedControl
        size="xs"
        aria-label="Where to"
        value={where}
        onChange={(value) => onPlaces({ ...places, where: value as Where })}
        data={[
          { value: 'line', label: 'At the line' },
          { value: 'sections', label: 'In sections', disabled: !song.sections.length },
        ]}
      />
      {where === 'sections' && (
        <MultiSelect
          size="xs"
          w={260}
          aria-label="Sections"
          placeholder={sections.length ? '' : 'Which sections'}
          value={[...sections]}
          onChange={(next) => onPlaces({ ...places, sections: next })}
          data={song.sections.map(({ t, name }) => ({ value: String(t), label: name }))}
        />
      )}
      <NumberField
        w={90}
        label="Times"
        value={count}
        min={1}
        max={64}
        step={1}
        allowDecimal={false}
        onValue={(times) => onPlaces({ ...places, count: Math.round(times) })}
      />
    </>
  );
}
