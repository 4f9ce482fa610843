import type { Seconds } from '../units/index.js';
import { meterMap, placeAt, timeOfPlace, type MeterMap } from './meterMap.js';

/** How the position is shown: musical, clock, or timecode (SMPTE ST 12-1). */
export const TIME_FORMATS = ['bars', 'clock', 'tc24', 'tc25', 'tc29.97df', 'tc30'] as const;
export type TimeFormat = (typeof TIME_FORMATS)[number];

const two = (n: number): string => String(n).padStart(2, '0');

/** `17·1.00`: bar, and beat with two decimals (rules, 1). */
export function printBars(map: MeterMap, t: Seconds): string {
  const place = placeAt(map, t);
  return `${place.bar}·${place.beat}.${two(Math.min(99, Math.floor(place.hundredths + 1e-3)))}`;
}

/** `2:05.412`: minutes, seconds and milliseconds. */
export function printClock(t: Seconds): string {
  const ms = Math.round(t * 1000);
  const sec = Math.floor(ms / 1000) % 60;
  return `${Math.floor(ms / 60000)}:${two(sec)}.${String(ms % 1000).padStart(3, '0')}`;
}

/** Real frames a second of a timecode format, and the number its frame count wraps at. */
export function frameRate(format: TimeFormat): { readonly perSec: number; readonly count: number } {
  switch (format) {
    case 'tc24':
      return { perSec: 24, count: 24 };
    case 'tc25':
    case 'bars':
    case 'clock':
      return { perSec: 25, count: 25 };
    case 'tc29.97df':
      return { perSec: 30000 / 1001, count: 30 };
    case 'tc30':
      return { perSec: 30, count: 30 };
  }
}

/**
 * Timecode of a time. Drop-frame leaves out frame numbers 0 and 1 of every minute but each tenth
 * (SMPTE ST 12-1), and is written with a semicolon before the frames.
 */
export function printTimecode(format: TimeFormat, t: Seconds): string {
  const { perSec, count } = frameRate(format);
  let frame = Math.floor(t * perSec + 1e-6);
  const drop = format === 'tc29.97df';
  if (drop) {
    const perTenMin = 17982;
    const perMin = 1798;
    const tens = Math.floor(frame / perTenMin);
    const rest = frame % perTenMin;
    frame += 18 * tens + (rest > 1 ? 2 * Math.floor((rest - 2) / perMin) : 0);
  }
  const sec = Math.floor(frame / count);
  const fields = [Math.floor(sec / 3600), Math.floor(sec / 60) % 60, sec % 60].map(two).join(':');
  return `${fields}${drop ? ';' : ':'}${two(frame % count)}`;
}

/** A time in the chosen format. */
export function printTime(format: TimeFormat, map: MeterMap, t: Seconds): string {
  if (format === 'bars') return printBars(map, t);
  return format === 'clock' ? printClock(t) : printTimecode(format, t);
}

/**
 * A bar, a beat after any separator but a colon, or the e of a number such as 1e400, decimals of the beat after a point or a comma.
 */
const TYPED_BARS = /^(\d+)(?:(?!e[-+]?\d)[^\d:]+(\d+)(?:[.,](\d+))?)?$/i;

const TYPED_TIMECODE = /^(\d+):(\d{1,2}):(\d{1,2})[:;](\d{1,2})$/;

/** The time of a timecode of a format; null where that format has no such frame. */
function timeOfTimecode([h, m, s, f]: readonly number[], format: TimeFormat): Seconds | null {
  const { perSec, count } = frameRate(format);
  if (m! > 59 || s! > 59 || f! >= count) return null;
  const minutes = 60 * h! + m!;
  const frame = (60 * minutes + s!) * count + f!;
  if (format !== 'tc29.97df') return frame / perSec;
  if (s === 0 && f! < 2 && minutes % 10 !== 0) return null;
  return (frame - 2 * (minutes - Math.floor(minutes / 10))) / perSec;
}

/**
 * Reads `17`, `17 3`, `17·3.50` as a musical place, `1:02.5` as minutes and seconds, `0:01:02:12` as timecode of a format (of 25
 * frames where that is none); null when it is none of these.
 */
export function parseTime(
  typed: string,
  map: MeterMap = meterMap([], []),
  format: TimeFormat = 'tc25',
): Seconds | null {
  const text = typed.trim();
  const clock = /^(\d+):(\d{1,2}(?:[.,]\d+)?)$/.exec(text);
  if (clock) return Number(clock[1]) * 60 + Number(clock[2]!.replace(',', '.'));
  const code = TYPED_TIMECODE.exec(text);
  if (code) return timeOfTimecode(code.slice(1).map(Number), format);
  const bars = TYPED_BARS.exec(text);
  if (!bars || Number(bars[1]) < 1) return null;
  const hundredths = 100 * Number(`0.${bars[3] ?? 0}`);
  const place = { bar: Number(bars[1]), beat: Number(bars[2] ?? 1), hundredths };
  return place.beat < 1 ? null : timeOfPlace(map, place);
}
