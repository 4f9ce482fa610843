import { mappingBetween, pieceFor } from '@sure-hand/core/curve';
import type { Edit, LayerOf } from '@sure-hand/core/edits';
import { printPiece, readPiece, type LanePiece } from '@sure-hand/core/formats';
import {
  fullName,
  isSwitch,
  controlOf,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type Song,
} from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import { layerName } from './reasonWords.js';
import { inHandOf, layerOf, mend, type MendScene } from './mending.js';

/** The system's clipboard, as far as it lets itself be read and written. */
export type Clipboard = { readText(): Promise<string>; writeText(text: string): Promise<void> };

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
    { law, at: 0 },
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

/** Puts what was copied on the lane in hand, from the line on. */
export async function pasteAtLine(scene: MendScene, clipboard: Clipboard): Promise<void> {
  const of = inHandOf(scene);
  if (!of) return;
  const at = scene.control.position;
  const text = await clipboard.readText().catch(() => copied);
  const read = readPiece(text || copied);
  if (!read.ok) return scene.say(read.sentence);
  const { song } = scene;
  const { law: from, points, length, name } = read.value;
  if (from.kind === 'switch' && !isSwitch(controlOf(song, of.control)))
    return scene.say(`${name} is a switch, which is pasted only to switches, not to ${fullName(song, of.control)}.`);
  const law = layerLaw(song, of.control, of.layer);
  const mapping = mappingBetween(from, law);
  const piece = pieceFor({ points, law: from, rest: 0 }, [0, length], { law, at }, mapping);
  const how = {
    travel: from.kind === law.kind ? '' : ', by where it stands on the throw',
    value: ', in dB',
    offset: ', as an offset in dB',
  }[mapping];
  mend(
    scene,
    { kind: 'draw', pieces: [{ ...of, span: [at, at + length], points: piece }], as: 'Paste' },
    `${length.toFixed(2)} s of ${name} pasted to ${layerName(song, of.control, of.layer)}${how}.`,
  );
}

/** Puts the range of the lane in hand once more right after itself; the range goes on to it. */
export function duplicateRange(scene: MendScene): void {
  const of = inHandOf(scene);
  if (!of) return;
  const { song, range, say } = scene;
  if (!range) return say('There is nothing to duplicate: set a range with I and O, or by dragging on the ruler.');
  const [from, to] = range;
  const edit: Edit = { kind: 'copy', from: of.control, to: of.control, range, at: to, layer: of.layer };
  if (
    mend(
      scene,
      edit,
      `${(to - from).toFixed(2)} s of ${layerName(song, of.control, of.layer)} duplicated after the range.`,
    )
  )
    scene.setRange([to, to + to - from]);
}
