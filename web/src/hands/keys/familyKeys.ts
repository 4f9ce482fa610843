import { channelOf } from '@sure-hand/core/song';
import { withChannel, withHand } from '../commandScene.js';
import type { Command } from './command.js';

/** Keys of gangs, VCAs and channels, of solo, and of the Desk's strips. */
export const familyKeys: readonly Command[] = [
  {
    id: 'alone',
    name: 'Leave the gang out, while held',
    group: 'Families',
    keys: '9',
    press: ({ control }) => void (control.isAlone = true),
    release: ({ control }) => void (control.isAlone = false),
  },
  {
    id: 'chooseFamily',
    name: 'Choose the whole family: modes are set for all',
    group: 'Families',
    keys: 'alt+u',
    press: withChannel(({ song, chooseFamily }, key) => chooseFamily(channelOf(song, key)!)),
  },
  {
    id: 'chooseGang',
    name: 'Choose the whole gang',
    group: 'Families',
    keys: 'alt+shift+u',
    press: withChannel(({ song, chooseGang }, key) => chooseGang(channelOf(song, key)!)),
  },
  {
    id: 'gangs',
    name: 'Gangs: of what is chosen, and all there are',
    group: 'Families',
    keys: 'alt+m',
    press: ({ ask }) => ask({ what: 'gangs' }),
  },
  {
    id: 'vcas',
    name: 'VCA groups: made, folded, dissolved',
    group: 'Families',
    keys: 'alt+v',
    press: ({ ask }) => ask({ what: 'vcas' }),
  },
  {
    id: 'channels',
    name: 'Channels, buses, sends',
    group: 'Families',
    keys: 'alt+b',
    press: ({ ask }) => ask({ what: 'channels' }),
  },
  {
    id: 'why',
    name: 'Why is this so quiet?',
    group: 'Families',
    keys: 'alt+q',
    press: withHand(({ did, why }, id) => did(why(id))),
  },
  {
    id: 'soloAlone',
    name: 'Solo alone: no other channel',
    group: 'Families',
    keys: 'alt+x',
    press: withChannel(({ control }, key) => control.soloAlone(key)),
  },
  {
    id: 'soloNone',
    name: 'Clear all solos',
    group: 'Families',
    keys: 'alt+shift+x',
    press: ({ control }) => control.clearSolos(),
  },
  {
    id: 'stripWidths',
    name: 'Strips: the next width',
    group: 'Desk',
    keys: 'alt+w',
    press: ({ widenStrips }) => widenStrips(null),
  },
  {
    id: 'stripWidth',
    name: 'The strip in hand: the next width',
    group: 'Desk',
    keys: 'alt+shift+w',
    press: withChannel(({ widenStrips }, key) => widenStrips(key)),
  },
  {
    id: 'throws',
    name: 'What stands on all throws: the next one',
    group: 'Desk',
    keys: 'alt+t',
    press: ({ nextThrows }) => nextThrows(),
  },
  {
    id: 'members',
    name: 'Members of a VCA, or sends to a bus, beside it',
    group: 'Desk',
    keys: 'alt+e',
    press: withChannel(({ song, openMembers, say }, key) => {
      const { kind, name } = channelOf(song, key)!;
      if (kind === 'vca' || kind === 'bus') openMembers(key);
      else say(`${name} is neither a VCA nor a bus: nothing stands beside it.`);
    }),
  },
];
