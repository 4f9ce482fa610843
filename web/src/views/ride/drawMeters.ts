import type { MeterReading } from '../../engine/meterHold.js';
import type { Look } from '../../parts/look.js';
import type { ChannelRow } from './rideLayout.js';

/**
 * Meters from −60 dB to full scale in the column between heads and lanes: peaks, the highest of a while as a line, and
 * a block on top that stays once a channel went over, until the meters are cleared.
 */
export function drawMeters(
  ctx: CanvasRenderingContext2D,
  rows: readonly ChannelRow[],
  look: Look,
  readingOf: (key: string) => MeterReading,
): void {
  ctx.save();
  for (const { channel, top, height, isHead } of rows) {
    if (channel.kind === 'vca' || !isHead) continue;
    const { peaks, held, clipped } = readingOf(channel.key);
    const room = Math.min(height - 8, 120);
    const foot = top + 4 + room;
    const reachOf = (peak: number): number => Math.max(0, Math.min(1, (20 * Math.log10(peak + 1e-9) + 60) / 60)) * room;
    peaks.forEach((peak, side) => {
      const x = 2 + side * 5;
      ctx.fillStyle = look.line;
      ctx.fillRect(x, top + 4, 4, room);
      const reach = reachOf(peak);
      ctx.fillStyle = look.teal;
      ctx.fillRect(x, foot - reach, 4, reach);
    });
    const stands = reachOf(held);
    ctx.fillStyle = look.text;
    if (stands > 0) ctx.fillRect(2, Math.round(foot - stands), 9, 1.5);
    ctx.fillStyle = look.coral;
    if (clipped) ctx.fillRect(1, top + 1, 11, 4);
  }
  ctx.restore();
}
