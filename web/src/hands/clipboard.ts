import { mappingBetween, pieceFor, type Mapping } from '@sure-hand/core/curve';
import type { CurveEdit, Edit, LayerOf } from '@sure-hand/core/edits';
import { printPiece, readPiece, type LanePiece, type Read } from '@sure-hand/core/formats';
import { laneOf, layerLaw, layerPoints, layerRest, type Song } from '@sure-hand/core/song';
import type { Law, Seconds } from '@sure-hand/core/units';
import { layerName } from './reasonWords.js';
import { inHandOf, lanesInHand, mend, oneStep, type MendScene } from './mending.js';
import { lanesWords, layerOf } from './picking.js';

/** The system's clipboard, as far as it lets itself be read and written. */
export type Clipboard = { readText(): Promise<string>; writeText(text: string): Promise<void> };

/** The system's clipboard; a page that is not let near it has none. */
export const SYSTEM_CLIPBOARD: Clipboard = {
  readText: () => navigator.clipboard.readText(),
  writeText: (text) => navigator.clipboard.writeText(text),
};

/** What was copied here last: where the system's clipboard can't be read it is that. */
let copied = '';

/** The range of the control in hand, as it can be put elsewhere. */
function pieceOf(song: Song, of: LayerOf, range: readonly [Seconds, Seconds]): LanePiece {
  const lane = laneOf(song, of.control);
  const law = layerLaw(song, of.control, of.layer);
  const length = range[1] - range[0];
  const name = layerName(song, of.control, of.layer);
  const points = pieceFor(
    { points: layerPoints(lane, of.layer), law, rest: layerRest(lane, of.layer) },
    range,
    { law, span: [0, length] },
    'travel',
  );
  return { name, law, length, points };
}

/** Copies the range of the lane in hand; with `isCut` what stands in it is cleared as well. */
export async function copyRange(scene: MendScene, clipboard: Clipboard, isCut = false): Promise<void> {
  const { song, inHand, range, say, did } = scene;
  if (!inHand) return;
  if (!range) return say('There is nothing to copy: set a range with I and O, or by dragging on the ruler.');
  const of = layerOf(song, inHand);
  const piece = pieceOf(song, of, range);
  copied = printPiece(piece);
  const words = `${piece.length.toFixed(2)} s of ${piece.name}`;
  if (!isCut) did(`${words} copied.`);
  else {
    const free = inHandOf(scene);
    if (!free) return;
    const edit: Edit = { kind: 'clear', controls: [of.control], range, layer: of.layer };
    if (!mend(scene, edit, `${words} cut.`)) did(`${words} copied; there was nothing to cut.`);
  }
  await clipboard.writeText(copied).catch(() => undefined);
}

/** What was copied last, from wherever; or the sentence that says why that can't be pasted. */
export async function readCopied(clipboard: Clipboard): Promise<Read<LanePiece>> {
  const text = await clipboard.readText().catch(() => copied);
  return readPiece(text || copied);
}

const isSameThrow = (a: Law, b: Law): boolean =>
  a.kind === b.kind && (!('min' in a) || !('min' in b) || (a.min === b.min && a.max === b.max));

/** How a piece comes to a lane: as it is, in dB, as an offset, or by where it stands on the throw; null where it can't. */
export function mappingTo(
  song: Song,
  piece: LanePiece,
  of: LayerOf,
): { readonly how: Mapping; readonly isSame: boolean } | null {
  const law = layerLaw(song, of.control, of.layer);
  if (piece.law.kind === 'switch' && law.kind !== 'switch') return null;
  return { how: mappingBetween(piece.law, law), isSame: isSameThrow(piece.law, law) };
}

/** The lanes of some that a piece can be put on. */
export const lanesFor = (song: Song, piece: LanePiece, lanes: readonly LayerOf[]): readonly LayerOf[] =>
  lanes.filter((of) => mappingTo(song, piece, of) !== null);

/** The edit that puts a piece on some lanes at some times, in one step; null where none of them takes it, or nowhere is a place for it. */
export function pasteEdit(
  song: Song,
  { points, length, law: from }: LanePiece,
  lanes: readonly LayerOf[],
  times: readonly Seconds[],
): Edit | null {
  const pieces = lanes.flatMap((of) => {
    const law = layerLaw(song, of.control, of.layer);
    const mapping = mappingBetween(from, law);
    return times.map((at) => {
      const span = [at, at + length] as const;
      return { ...of, span, points: pieceFor({ points, law: from, rest: 0 }, [0, length], { law, span }, mapping) };
    });
  });
  return pieces.length ? { kind: 'draw', pieces, as: 'Paste' } : null;
}

const HOW: Readonly<Record<Mapping, string>> = {
  travel: ', by where it stands on the throw',
  value: ', in dB',
  offset: ', as an offset in dB',
};

/** How a piece comes to a lane, in words. */
export const mappingWords = ({ how, isSame }: { readonly how: Mapping; readonly isSame: boolean }): string =>
  how === 'travel' && isSame ? '' : HOW[how];

/** Puts what was copied on the lanes in hand, from the line on. Where it comes to another kind, `show` has that looked at first. */
export async function pasteAtLine(scene: MendScene, clipboard: Clipboard, show: () => void): Promise<void> {
  const lanes = lanesInHand(scene);
  if (!lanes) return;
  const at = scene.control.position;
  const read = await readCopied(clipboard);
  if (!read.ok) return scene.say(read.sentence);
  const { song } = scene;
  const { length, name } = read.value;
  const goals = lanesFor(song, read.value, lanes);
  const [first] = goals;
  if (!first)
    return scene.say(`${name} is a switch, which is pasted only to switches, not to ${lanesWords(song, lanes)}.`);
  if (goals.some((of) => mappingTo(song, read.value, of)!.how === 'travel' && !mappingTo(song, read.value, of)!.isSame))
    return show();
  const edit = pasteEdit(song, read.value, goals, [at]);
  const to = goals.length > 1 ? `${goals.length} lanes` : layerName(song, first.control, first.layer);
  if (edit)
    mend(
      scene,
      edit,
      `${length.toFixed(2)} s of ${name} pasted to ${to}${mappingWords(mappingTo(song, read.value, first)!)}.`,
    );
}

/** Puts the range of the lanes in hand once more right after itself; the range goes on to it. */
export function duplicateRange(scene: MendScene): void {
  const lanes = lanesInHand(scene);
  if (!lanes) return;
  const { song, range, say } = scene;
  if (!range) return say('There is nothing to duplicate: set a range with I and O, or by dragging on the ruler.');
  const [from, to] = range;
  const edits = lanes.map(({ control, layer }): CurveEdit => ({
    kind: 'copy',
    from: control,
    to: control,
    range,
    at: to,
    layer,
  }));
  const [only] = lanes;
  const name = lanes.length > 1 ? `${lanes.length} lanes` : layerName(song, only!.control, only!.layer);
  if (mend(scene, oneStep(edits, 'Duplicate'), `${(to - from).toFixed(2)} s of ${name} duplicated after the range.`))
    scene.setRange([to, to + to - from]);
}
