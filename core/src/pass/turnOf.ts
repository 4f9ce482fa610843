import type { Edit } from '../edits/index.js';
import { channelsModedWith } from '../groups/index.js';
import type { Song } from '../song/index.js';
import type { HandEvent } from './handEvent.js';

/** What a person turns rather than moves: modes, trim, guards, scope. */
export type Turn = Extract<HandEvent, { do: 'mode' | 'desk' | 'trim' | 'safe' | 'park' | 'scope' | 'states' }>;

/** The edits that a turn is: a mode or trim goes to all of a gang that links them (rules, 6). */
export function turnsOf(song: Song, event: Turn): Edit[] {
  if (event.do === 'states') return [statesOf(song, event)];
  if (event.do !== 'mode' && event.do !== 'trim') return [turnOf(event)];
  return channelsModedWith(song, event.channel).map((channel) => turnOf({ ...event, channel }));
}

/** Many states at once; of a gang that links modes, what is said of one member counts for those of which nothing is said. */
function statesOf(song: Song, { scope, channels = {}, controls }: Turn & { do: 'states' }): Edit {
  const all: { [key: string]: (typeof channels)[string] } = { ...channels };
  for (const [key, { mode, trim }] of Object.entries(channels)) {
    const moded = { ...(mode === undefined ? {} : { mode }), ...(trim === undefined ? {} : { trim }) };
    if (!Object.keys(moded).length) continue;
    for (const other of channelsModedWith(song, key)) all[other] = { ...moded, ...all[other] };
  }
  return { kind: 'states', channels: all, ...(scope ? { scope } : {}), ...(controls ? { controls } : {}) };
}

/** The edit that a turn is, whoever makes it: a hand here, another page, the command line. */
function turnOf(event: Exclude<Turn, { do: 'states' }>): Edit {
  switch (event.do) {
    case 'mode':
      return { kind: 'channel', channel: event.channel, changes: { mode: event.mode } };
    case 'desk':
      return { kind: 'settings', changes: { deskMode: event.mode } };
    case 'trim':
      return { kind: 'channel', channel: event.channel, changes: { trim: event.on } };
    case 'safe':
      if ('kinds' in event) return { kind: 'channel', channel: event.channel, changes: { safe: event.kinds } };
      return { kind: 'guard', control: event.control, changes: { safe: event.on } };
    case 'park': {
      const changes = { parked: event.on };
      if (event.control) return { kind: 'guard', control: event.control, changes };
      return event.channel ? { kind: 'channel', channel: event.channel, changes } : { kind: 'settings', changes };
    }
    case 'scope':
      return { kind: 'settings', changes: { writeScope: event.kinds } };
  }
}
