import type { Remedy } from '@sure-hand/core/pass';
import {
  channelOf,
  controlOf,
  controlsOf,
  fullName,
  ownGuards,
  modeInForce,
  type ControlId,
  type EditReason,
  type Layer,
  type Reason,
  type Refusal,
  type Song,
} from '@sure-hand/core/song';

/** A control by name, with the layer a hand writes where that is its trim; of one that is gone, its id. */
export const layerName = (song: Song, id: ControlId, layer: Layer): string =>
  `${controlsOf(song).has(id) ? fullName(song, id) : id}${layer === 'trim' ? ' trim' : ''}`;

/** Why a hand is heard but not written now, and what would change it. */
export function whyOf(song: Song, id: ControlId, reason: Reason): string {
  const name = fullName(song, id);
  const channel = channelOf(song, controlOf(song, id).channel)!;
  switch (reason) {
    case 'mode': {
      const mode = modeInForce(song, channel.key);
      if (song.settings.deskMode !== null) return `The desk mode is ${mode}: ${name} is heard, not written.`;
      return mode === 'off'
        ? `${channel.name} is off: ${name} is heard, not written.`
        : `${channel.name} reads: ${name} is heard while you hold it, not written. 3 puts it in touch.`;
    }
    case 'parked':
      return `Parked: ${name} is heard, not written. ${parkedKey(song, id)} reads it again.`;
    case 'safe':
      return `Safe: ${name} is heard, not written. ${ownGuards(song, id).safe ? 'J' : 'Alt+J'} takes it out.`;
    case 'scope':
      return `Out of the write scope: ${name} is heard, not written. W widens it.`;
    case 'trim':
      return `${channel.name} trims, and ${name} has no trim: it is heard, not written.`;
    case 'range':
      return `Outside the punch range: ${name} is heard, not written.`;
  }
}

/** The key that takes back what parks a control. */
function parkedKey(song: Song, id: ControlId): string {
  if (song.settings.parked) return 'Alt+Shift+K';
  return channelOf(song, controlOf(song, id).channel)!.parked ? 'Alt+K' : 'K';
}

/** Why a curve can't be mended, and what would change it. */
export const staysOf = (song: Song, id: ControlId, guard: 'parked' | 'safe'): string =>
  guard === 'safe'
    ? `Safe: ${fullName(song, id)} stays as it is. ${ownGuards(song, id).safe ? 'J' : 'Alt+J'} takes it out.`
    : `Parked: ${fullName(song, id)} stays as it is. ${parkedKey(song, id)} reads it again.`;

/** That a hand sets where a control rests: the one thing there that lasts. */
export function restsOf(song: Song, id: ControlId): string {
  const channel = channelOf(song, controlOf(song, id).channel)!;
  const mode = modeInForce(song, channel.key);
  const why = mode === 'off' ? `${channel.name} is off` : mode === 'read' ? `${channel.name} reads` : 'Stopped';
  return `${why}: a hand sets where ${fullName(song, id)} rests, for the whole song.`;
}

/** The same as it stands at the hand: `Safe: not written`. */
export function refusalWords(song: Song, id: ControlId, reason: Reason): string {
  const why = whyInShort(song, id, reason);
  return `${why[0]!.toUpperCase()}${why.slice(1)}: not written`;
}

/** The same in a few words, for a list of how things stand. */
export function whyInShort(song: Song, id: ControlId, reason: EditReason): string {
  const { channel: key, kind } = controlOf(song, id);
  const { settings } = song;
  switch (reason) {
    case 'mode':
      return settings.deskMode === null ? `in ${modeInForce(song, key)}` : `desk mode ${settings.deskMode}`;
    case 'parked':
      return settings.parked ? 'the song is parked' : channelOf(song, key)!.parked ? 'channel parked' : 'parked';
    case 'safe':
      return ownGuards(song, id).safe ? 'safe' : `${kind} safe`;
    case 'scope':
      return `${kind} out of scope`;
    case 'trim':
      return 'trimming, and not in dB';
    case 'range':
      return 'outside the punch range';
    case 'sway':
      return 'sways: print the sway first';
  }
}

/** Why something was not written, as it was then, whatever the song has become since. */
export function wasRefused(reason: EditReason): string {
  switch (reason) {
    case 'mode':
      return 'in off or read';
    case 'parked':
      return 'parked';
    case 'safe':
      return 'safe';
    case 'scope':
      return 'out of the write scope';
    case 'trim':
      return 'trimming, and not in dB';
    case 'range':
      return 'outside the punch range';
    case 'sway':
      return 'it sways: print that first';
  }
}

/** What an act is called that lets a control be written. */
export function remedyWords(song: Song, remedy: Remedy): string {
  switch (remedy.do) {
    case 'mode':
      return `Put ${channelOf(song, remedy.channel)!.name} in ${remedy.mode}`;
    case 'desk':
      return remedy.mode === null ? 'Desk mode off' : `Desk mode to ${remedy.mode}`;
    case 'park':
      if (remedy.control) return 'Read it again';
      return remedy.channel ? `Read ${channelOf(song, remedy.channel)!.name} again` : 'Read the song again';
    case 'safe':
      return 'Take it out of safe';
    case 'scope':
      return 'Widen the scope';
    case 'trim':
      return 'Trim off';
    case 'punchOff':
      return 'Punch off';
    default:
      throw new Error(`no act of a list: ${remedy.do}`);
  }
}

/** Which lanes of a pass were left alone as it was kept, and why. */
export function leftWords(song: Song | null, left: readonly Refusal[]): string {
  const names = left.map(({ control, reason }) => `${song ? layerName(song, control, 'base') : control} (${reason})`);
  return `Guarded meanwhile, and left as it was: ${names.join(', ')}.`;
}
