import { controlOf } from '@sure-hand/core/song';
import { withChannel, withHand } from '../commandScene.js';
import type { Command } from './command.js';

/** Keys of what keeps a control from being written. */
export const guardKeys: readonly Command[] = [
  {
    id: 'safe',
    name: 'Safe, the control in hand',
    group: 'Guards',
    keys: 'j',
    press: withHand(({ control }, id) => control.toggleSafe(id)),
  },
  {
    id: 'safeKind',
    name: 'Safe, its kind on the channel',
    group: 'Guards',
    keys: 'alt+j',
    press: withHand(({ song, control }, id) => {
      const { channel, kind } = controlOf(song, id);
      control.toggleSafeKind(channel, kind);
    }),
  },
  {
    id: 'park',
    name: 'Park the control in hand',
    group: 'Guards',
    keys: 'k',
    press: withHand(({ control }, id) => control.togglePark(id)),
  },
  {
    id: 'parkChannel',
    name: 'Park the channel',
    group: 'Guards',
    keys: 'alt+k',
    press: withChannel(({ control }, key) => control.toggleParkChannel(key)),
  },
  {
    id: 'parkSong',
    name: 'Park the whole song',
    group: 'Guards',
    keys: 'alt+shift+k',
    press: ({ control }) => control.toggleParkSong(),
  },
  {
    id: 'origin',
    name: 'Where it comes from: who wrote it here, and when',
    group: 'Guards',
    keys: 'shift+b',
    press: withHand(({ ask }, id) => ask({ what: 'origin', id })),
  },
  {
    id: 'guardsBack',
    name: 'Guards and modes set last: back as they were',
    group: 'Guards',
    keys: 'alt+shift+j',
    press: ({ guards, say }) => {
      if (!guards.back()) say('No guards were set together that could be put back.');
    },
  },
];
