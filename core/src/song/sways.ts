import { swayingAt, type Swaying, type Turning } from '../curve/index.js';
import { meterMap, quartersAt } from '../time/index.js';
import { clamp, travelOf, valueOf, type Seconds, type Travel } from '../units/index.js';
import { controlOf, guardedAs, hostNamed, isSwitch, swayControlId } from './control.js';
import type { ControlId, Lane, Song, Sway } from './document.js';
import { isReading, ownValueAt } from './reading.js';

/** What a sway is of which nothing is said. */
export const NEW_SWAY: Sway = { wave: 'sine', perBeat: 0.25, depth: 0.05, phase: 0, on: true };

/** A sway with what a document does not say of it; its rate in quarter notes where it says none. */
export function swayWithDefaults(sway: Partial<Sway>): Sway {
  const { perBeat, ...rest } = NEW_SWAY;
  return { ...rest, ...(sway.hz === undefined ? { perBeat: perBeat! } : {}), ...sway };
}

/** The sentence for a sway that a control can't have; null where it can have it. */
export function swayWrong(song: Song, id: ControlId, { perBeat, hz }: Sway): string | null {
  const control = controlOf(song, id);
  if (control.host !== null) return `${id} is the depth of a sway, which has no sway of its own.`;
  if (isSwitch(control)) return `${id} is a switch, which has no sway.`;
  if (perBeat !== undefined && hz !== undefined)
    return `The sway of ${id} says perBeat ${perBeat} and hz ${hz}; leave one of them out.`;
  return null;
}

/** A control's sway; null where it has none, or none that is on. */
export function swayOf(song: Song, id: ControlId): Sway | null {
  const sway = song.lanes[id]?.sway;
  return sway?.on ? sway : null;
}

/** Whether a control sways now: it has a sway that is on, and is read; off or parked it has none (page 8). */
export const isSwaying = (song: Song, id: ControlId): boolean => swayOf(song, id) !== null && isReading(song, id);

const turnings = new WeakMap<Sway, { readonly tempo: Song['tempo']; readonly swaying: Swaying }>();

/** How a sway goes over a song, counted from its start. Made once for a song's tempo. */
export function swayingOf(song: Song, sway: Sway): Swaying {
  const known = turnings.get(sway);
  if (known?.tempo === song.tempo) return known.swaying;
  const { wave, seed = 1 } = sway;
  const swaying = { wave, seed, turning: turningOf(song, sway) };
  turnings.set(sway, { tempo: song.tempo, swaying });
  return swaying;
}

function turningOf(song: Song, { perBeat, hz, phase }: Sway): Turning {
  if (hz !== undefined) return { t: Float64Array.of(0), turns: Float64Array.of(phase), perSec: Float64Array.of(hz) };
  const map = meterMap(song.tempo, song.meter);
  const t = Float64Array.from(map.tempo, (mark) => mark.t);
  return {
    t,
    turns: t.map((at) => quartersAt(map, at) * perBeat! + phase),
    perSec: Float64Array.from(map.tempo, ({ secPerQuarter }) => perBeat! / secPerQuarter),
  };
}

/** What is heard at t of a base value of a control: with its sway in it, `depth` deep; off or parked it has none (page 8). */
export function swayedValue(song: Song, id: ControlId, base: number, t: Seconds, depth?: Travel): number {
  const sway = swayOf(song, id);
  if (!sway || !isSwaying(song, id)) return base;
  const { law } = controlOf(song, id);
  const deep = depth ?? ownValueAt(song, swayControlId(id), t).base;
  return valueOf(law, clamp(travelOf(law, base) + deep * swayingAt(swayingOf(song, sway), t), 0, 1));
}

type Lanes = { readonly [id: ControlId]: Lane | null };

/** A song with some lanes in the place of its own: which controls there then are, as sways come and go with them. */
export const withThem = (song: Song, lanes: Lanes): Song => {
  const next: { [id: ControlId]: Lane } = { ...song.lanes };
  for (const [id, lane] of Object.entries(lanes))
    if (lane) next[id] = lane;
    else delete next[id];
  return { ...song, lanes: next };
};

/**
 * Lanes that are to be put into a song, with all that follows for sways: a depth's lane goes with its sway, rests where the sway
 * says, and where it alone is put in its resting value is the sway's depth.
 */
export function withDepths(song: Song, lanes: Lanes): Lanes {
  const all: { [id: ControlId]: Lane | null } = { ...lanes };
  for (const [id, lane] of Object.entries(lanes)) {
    const host = hostNamed(id);
    if (host === null || host in lanes) continue;
    const was = song.lanes[host];
    if (lane && was?.sway && was.sway.depth !== lane.rest)
      all[host] = { ...was, sway: { ...was.sway, depth: lane.rest } };
  }
  for (const id of Object.keys(all).map(guardedAs)) {
    const depth = swayControlId(id);
    const host = id in all ? all[id] : song.lanes[id];
    const lane = depth in all ? all[depth] : song.lanes[depth];
    if (!lane && !(depth in all)) continue;
    const stays = lane && host?.sway && lane.points.length + lane.trim.length > 0;
    if (stays) all[depth] = lane.rest === host.sway!.depth ? lane : { ...lane, rest: host.sway!.depth };
    else if (song.lanes[depth]) all[depth] = null;
    else delete all[depth];
  }
  return all;
}
