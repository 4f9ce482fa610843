import { cutOut, pieceFor, type Range } from '../curve/index.js';
import { controlsOf, laneOf, layerLaw, layerPoints, layerRest, type Song } from '../song/index.js';
import { clamp, type Seconds } from '../units/index.js';
import type { DrawEdit } from './kinds/draw.js';
import type { LayerOf } from './mends.js';
import type { LoggedLane } from './versions.js';

/** A stretch of one layer of a lane that was written in one go. */
export type WrittenSpan = LayerOf & { readonly span: Range };

/** How far written stretches can go together of what is asked: none before the song's start, none past its end. */
export function shiftWithin(song: Song, spans: readonly WrittenSpan[], by: Seconds): Seconds {
  const from = Math.min(...spans.map(({ span }) => span[0]));
  const to = Math.max(...spans.map(({ span }) => span[1]));
  return spans.length ? clamp(by, -from, Math.max(0, song.length - to)) : 0;
}

/**
 * What was written in some stretches put earlier or later, whole; where it stood and does no more there is again what it had found
 * there. So a hand that came late is put right, and nothing beside it is squeezed. Null where it goes nowhere.
 */
export function shiftedSpans(
  song: Song,
  written: readonly WrittenSpan[],
  found: readonly LoggedLane[],
  by: Seconds,
): DrawEdit | null {
  const spans = written.filter(({ control }) => controlsOf(song).has(control));
  const far = shiftWithin(song, spans, by);
  if (!far) return null;
  const back = spans.flatMap(({ control, layer, span }): DrawEdit['pieces'] => {
    const was = found.find((one) => one.control === control && one.layer === layer);
    if (!was) return [];
    return [{ control, layer, span, points: cutOut(was.before, layerLaw(song, control, layer), was.rest, span) }];
  });
  const put = spans.map(({ control, layer, span }) => {
    const law = layerLaw(song, control, layer);
    const lane = laneOf(song, control);
    const to: Range = [span[0] + far, span[1] + far];
    const curve = { points: layerPoints(lane, layer), law, rest: layerRest(lane, layer) };
    return { control, layer, span: to, points: pieceFor(curve, span, { law, span: to }, 'travel') };
  });
  return { kind: 'draw', pieces: [...back, ...put], as: 'Shift' };
}
