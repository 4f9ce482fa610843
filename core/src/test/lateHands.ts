import { LATE, type Deed, type HandEvent, type Moment } from '../pass/index.js';
import { loopOf, type Song } from '../song/index.js';

/** A person does stopped things so often, and plays again so long after a stop at least. */
const STOPPED_EVERY_MS = 7;
const PLAYS_AFTER_MS = LATE.ms + 20;

/** Something that is made at a moment of the page's clock. */
export type Made = { readonly moment: Moment; readonly deed: Deed };

/** Events with the moments at which hands make them; wraps between them, where their laps say so. */
export function made(song: Song, events: readonly HandEvent[]): Made[] {
  const loop = loopOf(song);
  const list: Made[] = [];
  let phase = 0;
  let clock = 1000;
  let play: { at: number; from: number; lap: number } | null = null;
  let stoppedAt = -Infinity;
  const since = ({ from }: { from: number }, lap: number, t: number): number =>
    lap === 0 ? t - from : loop![1] - from + (lap - 1) * (loop![1] - loop![0]) + (t - loop![0]);
  for (const event of events) {
    if (event.do === 'play') {
      clock = Math.max(clock + STOPPED_EVERY_MS, stoppedAt + PLAYS_AFTER_MS);
      play = { at: clock, from: event.from, lap: 0 };
      list.push({ moment: { phase: ++phase, at: clock }, deed: { do: 'hand', event } });
      continue;
    }
    if (!play) {
      clock += STOPPED_EVERY_MS;
      if (event.do !== 'stop') list.push({ moment: { phase, at: clock }, deed: { do: 'hand', event } });
      continue;
    }
    for (; play.lap < (event.lap ?? 0); play.lap++)
      list.push({
        moment: { phase: ++phase, at: play.at + 1000 * since(play, play.lap, loop![1]) },
        deed: { do: 'wrap' },
      });
    // Of two at one time the first was made a little earlier: only so can their order be told.
    clock = Math.max(clock + 1e-4, play.at + 1000 * since(play, event.lap ?? 0, event.t!));
    if (event.do === 'stop') {
      phase++;
      play = null;
      stoppedAt = clock;
    }
    list.push({ moment: { phase, at: clock }, deed: { do: 'hand', event } });
  }
  return list;
}
