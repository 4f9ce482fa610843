import { controlId, type ControlId } from '@sure-hand/core/song';
import { channelInHand, now, takeLane, takeNext, withHand, type CommandScene } from '../commandScene.js';
import type { Command } from './command.js';

const mute = (key: string | null): ControlId | null => (key ? controlId(key, 'mute') : null);
const fits = ({ onView }: CommandScene): boolean => onView.length > 0;

/** Keys of the transport, and of the control in hand. */
export const handKeys: readonly Command[] = [
  {
    id: 'play',
    name: 'Play or stop',
    group: 'Transport',
    keys: 'space',
    press: ({ control }) => void control.togglePlay(),
  },
  {
    id: 'return',
    name: 'Back to where play began',
    group: 'Transport',
    keys: 'enter',
    press: ({ control }) => void control.returnToStart(),
  },
  {
    id: 'stepBack',
    name: 'Back to where the line was',
    group: 'Transport',
    keys: 'shift+enter',
    press: ({ control }) => void control.stepBack(),
  },
  {
    id: 'scrubOn',
    name: 'Scrub on, while held',
    group: 'Transport',
    keys: 'period',
    press: ({ control }) => control.scrubRun(1),
    release: ({ control }) => control.scrubEnd(),
  },
  {
    id: 'scrubBack',
    name: 'Scrub back, while held',
    group: 'Transport',
    keys: 'comma',
    press: ({ control }) => control.scrubRun(-1),
    release: ({ control }) => control.scrubEnd(),
  },
  {
    id: 'loop',
    name: 'Loop the range on or off',
    group: 'Transport',
    keys: 'l',
    press: ({ song, control, range }) => control.setLoop(song.settings.loop ? null : range),
  },
  {
    id: 'letGo',
    name: 'Let go of everything, pick nothing',
    group: 'In hand',
    keys: 'escape',
    press: ({ control, pick, mendAlone, draw }) => {
      draw(null);
      control.letGo();
      pick(null);
      mendAlone();
    },
  },
  {
    id: 'hold',
    name: 'Touch the control in hand while held',
    group: 'In hand',
    keys: 't',
    press: withHand(({ control }, id) => control.press(id, now())),
    release: withHand(({ control }, id) => control.release(id, now())),
  },
  {
    id: 'up',
    name: 'Move it up',
    group: 'In hand',
    keys: 'up',
    repeats: true,
    press: withHand(({ control }, id) => control.nudge(id, 1, false)),
  },
  {
    id: 'down',
    name: 'Move it down',
    group: 'In hand',
    keys: 'down',
    repeats: true,
    press: withHand(({ control }, id) => control.nudge(id, -1, false)),
  },
  {
    id: 'upFine',
    name: 'Move it up finely',
    group: 'In hand',
    keys: 'shift+up',
    repeats: true,
    press: withHand(({ control }, id) => control.nudge(id, 1, true)),
  },
  {
    id: 'downFine',
    name: 'Move it down finely',
    group: 'In hand',
    keys: 'shift+down',
    repeats: true,
    press: withHand(({ control }, id) => control.nudge(id, -1, true)),
  },
  { id: 'type', name: 'Type its value', group: 'In hand', keys: 'equal', press: ({ typeValue }) => typeValue() },
  {
    id: 'mute',
    name: 'Mute (held, in touch)',
    group: 'In hand',
    keys: 'm',
    press: (scene) => {
      const id = mute(channelInHand(scene));
      if (id) scene.control.pressSwitch(id, now());
    },
    release: (scene) => {
      const id = mute(channelInHand(scene));
      if (id) scene.control.release(id, now());
    },
  },
  {
    id: 'solo',
    name: 'Solo',
    group: 'In hand',
    keys: 's',
    press: (scene) => {
      const key = channelInHand(scene);
      if (key) scene.control.toggleSolo(key);
    },
  },
  {
    id: 'next',
    name: 'Next row',
    group: 'In hand',
    keys: 'tab',
    repeats: true,
    fits,
    press: (scene) => takeNext(scene, 1),
  },
  {
    id: 'previous',
    name: 'Row before',
    group: 'In hand',
    keys: 'shift+tab',
    repeats: true,
    fits,
    press: (scene) => takeNext(scene, -1),
  },
  {
    id: 'nextLane',
    name: 'Next lane of the channel',
    group: 'In hand',
    keys: 'right',
    repeats: true,
    press: (scene) => takeLane(scene, 1),
  },
  {
    id: 'previousLane',
    name: 'Lane before',
    group: 'In hand',
    keys: 'left',
    repeats: true,
    press: (scene) => takeLane(scene, -1),
  },
  {
    id: 'lastMoved',
    name: 'The control that was moved last',
    group: 'In hand',
    keys: 'd',
    press: ({ control, takeInHand, say }) => {
      const id = control.session.lastMoved;
      if (id) takeInHand(id);
      else say('No control has been moved yet.');
    },
  },
  { id: 'find', name: 'Find a control', group: 'In hand', keys: 'slash', press: ({ find }) => find() },
];
