import { lastKeyedNotAfter, type Seconds } from '../units/index.js';

/** From `t` on, this many quarter notes a minute; tempo jumps, it never glides (rules, 1). */
export type TempoMark = { readonly t: Seconds; readonly bpm: number };
/** From `t` on, bars of `beats` beats of one `unit`th note; a change of meter starts a bar. */
export type MeterMark = { readonly t: Seconds; readonly beats: number; readonly unit: number };

/** A musical place: bar and beat count from 1; `hundredths` of a beat, 0 … 99.999. */
export type BarPlace = { readonly bar: number; readonly beat: number; readonly hundredths: number };

type Stretch = {
  readonly t: Seconds;
  readonly quarter: number;
  readonly secPerQuarter: number;
};
type MeterStretch = { readonly quarter: number; readonly bar: number; readonly beats: number; readonly unit: number };

/** Tempo and meter of a song, made ready for looking up in both directions. */
export type MeterMap = { readonly tempo: readonly Stretch[]; readonly meter: readonly MeterStretch[] };

const EPSILON_QUARTERS = 1e-6;

/** Builds the map; the marks must be sorted by t. Missing first marks count from the song's start. */
export function meterMap(tempo: readonly TempoMark[], meter: readonly MeterMark[]): MeterMap {
  const marks = tempo.length ? tempo : [{ t: 0, bpm: 120 }];
  const stretches: Stretch[] = [];
  for (const mark of marks) {
    const last = stretches.at(-1);
    const quarter = last ? last.quarter + (mark.t - last.t) / last.secPerQuarter : 0;
    stretches.push({ t: last ? mark.t : 0, quarter, secPerQuarter: 60 / mark.bpm });
  }
  const map: { tempo: Stretch[]; meter: MeterStretch[] } = { tempo: stretches, meter: [] };
  for (const { t, beats, unit } of meter.length ? meter : [{ t: 0, beats: 4, unit: 4 }]) {
    const last = map.meter.at(-1);
    const quarter = last ? quartersAt(map, t) : 0;
    const barsBefore = last ? Math.ceil((quarter - last.quarter) / quartersPerBar(last) - EPSILON_QUARTERS) : 0;
    map.meter.push({ quarter, bar: last ? last.bar + barsBefore : 1, beats, unit });
  }
  return map;
}

const quartersPerBeat = (m: MeterStretch): number => 4 / m.unit;
const quartersPerBar = (m: MeterStretch): number => m.beats * quartersPerBeat(m);

/** The stretch that a place lies in; the first where it lies before all. */
const stretchAt = <Item>(items: readonly Item[], key: (item: Item) => number, x: number): Item =>
  items[Math.max(0, lastKeyedNotAfter(items, key, x))]!;

/** Quarter notes from the song's start to t. */
export function quartersAt(map: MeterMap, t: Seconds): number {
  const stretch = stretchAt(map.tempo, (s) => s.t, t);
  return stretch.quarter + (t - stretch.t) / stretch.secPerQuarter;
}

/** The time at which so many quarter notes have passed. */
export function timeOfQuarters(map: MeterMap, quarters: number): Seconds {
  const stretch = stretchAt(map.tempo, (s) => s.quarter, quarters);
  return stretch.t + (quarters - stretch.quarter) * stretch.secPerQuarter;
}

/** The musical place of a time. */
export function placeAt(map: MeterMap, t: Seconds): BarPlace {
  const quarters = quartersAt(map, t) + EPSILON_QUARTERS;
  const m = stretchAt(map.meter, (s) => s.quarter, quarters);
  const beats = (quarters - m.quarter) / quartersPerBeat(m);
  const bars = Math.floor(beats / m.beats);
  const inBar = beats - bars * m.beats;
  const beat = Math.floor(inBar);
  return { bar: m.bar + bars, beat: beat + 1, hundredths: (inBar - beat) * 100 };
}

/** The time of a musical place; beats past the bar's end run on into the next. */
export function timeOfPlace(map: MeterMap, place: BarPlace): Seconds {
  const m = stretchAt(map.meter, (s) => s.bar, place.bar);
  const beats = (place.bar - m.bar) * m.beats + (place.beat - 1) + place.hundredths / 100;
  return timeOfQuarters(map, m.quarter + beats * quartersPerBeat(m));
}

/** Every bar line in [from, to), at most `most` of them. */
export function barLines(
  map: MeterMap,
  from: Seconds,
  to: Seconds,
  most = 4096,
): { readonly bar: number; readonly t: Seconds }[] {
  const lines: { bar: number; t: Seconds }[] = [];
  const first = placeAt(map, Math.max(0, from));
  for (let bar = first.bar; lines.length < most; bar++) {
    const t = timeOfPlace(map, { bar, beat: 1, hundredths: 0 });
    if (t >= to) break;
    if (t >= from) lines.push({ bar, t });
  }
  return lines;
}

/** The meter in force at t. */
export function meterAt(map: MeterMap, t: Seconds): { readonly beats: number; readonly unit: number } {
  const m = stretchAt(map.meter, (s) => s.quarter, quartersAt(map, t) + EPSILON_QUARTERS);
  return { beats: m.beats, unit: m.unit };
}
