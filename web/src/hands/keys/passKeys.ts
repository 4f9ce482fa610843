import { MODES, channelOf } from '@sure-hand/core/song';
import { carryOn, channelsInHand, compare, playEdges, withChannel } from '../commandScene.js';
import type { Command } from './command.js';

const modeNames = { off: 'Off', read: 'Read', touch: 'Touch', latch: 'Latch', write: 'Write' } as const;

/** Keys of modes, and of what passes do and did. */
export const passKeys: readonly Command[] = [
  ...MODES.map((mode, i): Command => ({
    id: `mode-${mode}`,
    name: modeNames[mode],
    group: 'Modes',
    keys: String(i + 1),
    press: (scene) => scene.control.setModes(channelsInHand(scene), mode),
  })),
  {
    id: 'trim',
    name: 'Trim on or off',
    group: 'Modes',
    keys: '0',
    press: (scene) => {
      const channels = channelsInHand(scene);
      const isOn = channels.some((key) => !channelOf(scene.song, key)!.trim);
      scene.control.setTrims(channels, isOn);
    },
  },
  ...MODES.map((mode, i): Command => ({
    id: `desk-${mode}`,
    name: `Desk mode: ${modeNames[mode].toLowerCase()} for every channel`,
    group: 'Modes',
    keys: `alt+${i + 1}`,
    press: ({ control }) => control.setDesk(mode),
  })),
  {
    id: 'desk-none',
    name: 'Modes per channel: desk mode off',
    group: 'Modes',
    keys: 'alt+0',
    press: ({ control }) => control.setDesk(null),
  },
  {
    id: 'writing',
    name: 'How passes write: scope, return, thinning',
    group: 'Passes',
    keys: 'w',
    press: ({ ask }) => ask({ what: 'writing' }),
  },
  {
    id: 'list',
    name: 'What a pass writes: the list',
    group: 'Passes',
    keys: 'shift+w',
    press: ({ ask }) => ask({ what: 'list' }),
  },
  {
    id: 'compare',
    name: 'Before or after the pass, by ear',
    group: 'Passes',
    keys: 'b',
    press: (scene) => void compare(scene),
  },
  {
    id: 'receipt',
    name: 'What the last pass did, once more',
    group: 'Passes',
    keys: 'r',
    press: ({ recallPass }) => recallPass(),
  },
  {
    id: 'edges',
    name: 'Play the edges',
    group: 'Passes',
    keys: 'e',
    press: (scene) => void playEdges(scene),
  },
  {
    id: 'carryOn',
    name: 'Carry the span’s end on to the next stop',
    group: 'Passes',
    keys: 'shift+right',
    press: (scene) => carryOn(scene, 1),
  },
  {
    id: 'carryBack',
    name: 'Carry its beginning back to the stop before',
    group: 'Passes',
    keys: 'shift+left',
    press: (scene) => carryOn(scene, -1),
  },
  {
    id: 'fold',
    name: 'Fold the channel’s trim',
    group: 'Passes',
    keys: 'f',
    press: withChannel(({ control }, key) => control.foldTrim(key)),
  },
  {
    id: 'foldAll',
    name: 'Fold all trim',
    group: 'Passes',
    keys: 'shift+f',
    press: ({ control }) => control.foldTrim(null),
  },
];
