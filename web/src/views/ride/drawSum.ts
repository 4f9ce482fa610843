import { heardValue, levelParts, ownBySong, vcasOver, type OwnAt } from '@sure-hand/core/groups';
import { controlId, controlOf, isSwaying, laneOf, type ControlId, type Song } from '@sure-hand/core/song';
import { LEVEL_LAW, MAX_LEVEL_DB, travelOf, type Db, type Travel } from '@sure-hand/core/units';
import type { LanesScene } from './drawLanes.js';
import { yOfTravel, type ChannelRow } from './rideLayout.js';
import { timeAt } from './rideScale.js';

/** Less than this is no difference that anybody sees or hears. */
const SAME_DB = 0.05;
/** The shadow of a sum is drawn from places so many pixels apart. */
const STEP_PX = 3;

/** What is heard of a level with the VCAs over it; null where none of them takes or adds anything. */
export function sumWithVcas(song: Song, control: ControlId, own: OwnAt): Db | null {
  const { vcas, sum } = levelParts(song, control, own);
  return vcas.some(({ db }) => Math.abs(db) >= SAME_DB) ? sum : null;
}

/** Where a control is heard, on its throw, where that is elsewhere than its cap: what VCAs over it make of a level, or its sway. */
export function heardElsewhere(song: Song, control: ControlId, own: OwnAt): Travel | null {
  const { kind, law } = controlOf(song, control);
  const sum = kind === 'level' ? sumWithVcas(song, control, own) : null;
  if (sum !== null) return travelOfSum(sum);
  return isSwaying(song, control) ? travelOf(law, heardValue(song, control, own)) : null;
}

/** Where a sum stands on a level's throw, which ends at +12 dB. */
const travelOfSum = (sum: Db): Travel => travelOf(LEVEL_LAW, Math.min(MAX_LEVEL_DB, sum));

/** The levels of the VCAs over a control that is a channel's level. */
export function vcaLevelsOver(song: Song, id: ControlId): readonly ControlId[] {
  const { channel, kind } = controlOf(song, id);
  return kind === 'level' ? vcasOver(song, channel).map((vca) => controlId(vca, 'level')) : [];
}

/** A lane with the VCAs over it, as a thin shadow; nothing where they stand at 0 dB throughout. */
export function drawVcaSum(
  ctx: CanvasRenderingContext2D,
  { song, scale, look, from, to }: LanesScene,
  row: ChannelRow,
): void {
  const moves = vcaLevelsOver(song, row.control).some((id) => {
    const { points, trim, rest } = laneOf(song, id);
    return points.length > 0 || trim.length > 0 || rest !== 0;
  });
  if (!moves) return;
  ctx.save();
  ctx.strokeStyle = look.quiet;
  ctx.globalAlpha = 0.8;
  ctx.lineWidth = 1;
  ctx.setLineDash([6, 2]);
  ctx.beginPath();
  for (let x = from, isFirst = true; x <= to + STEP_PX; x += STEP_PX, isFirst = false) {
    const { sum } = levelParts(song, row.control, ownBySong(song, timeAt(scale, x)));
    const y = yOfTravel(row, travelOfSum(sum));
    if (isFirst) ctx.moveTo(x, y);
    else ctx.lineTo(x, y);
  }
  ctx.stroke();
  ctx.restore();
}
