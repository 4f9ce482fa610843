import { fullName } from '@sure-hand/core/song';
import { asideCount } from '../asideWords.js';
import { withHand } from '../commandScene.js';
import type { Command } from './command.js';

/** Keys of what is held aside, and of placing values. */
export const tryoutKeys: readonly Command[] = [
  {
    id: 'tryout',
    name: 'Tryout: what is touched is held aside, on or off',
    group: 'Placing',
    keys: 'y',
    press: ({ control, tryout, did }) => {
      tryout.toggle();
      const { isOn, held } = control.session.recorder.tryout;
      if (isOn) return;
      did(
        held.size
          ? `The tryout is over; ${asideCount(held.size)} until P places or Shift+Y puts back.`
          : 'The tryout is over: what you touch is written as its mode says.',
      );
    },
  },
  {
    id: 'asideList',
    name: 'What is held aside: the list',
    group: 'Placing',
    keys: 'alt+y',
    press: ({ ask }) => ask({ what: 'aside' }),
  },
  {
    id: 'putBack',
    name: 'Put the control in hand back on its curve',
    group: 'Placing',
    keys: 'shift+y',
    press: withHand(({ song, tryout, did, say }, id) => {
      if (tryout.drop([id]).length)
        did(`${fullName(song, id)} is back on its curve. Alt+Shift+Y holds it aside again.`);
      else say(`${fullName(song, id)} is not held aside.`);
    }),
  },
  {
    id: 'holdAgain',
    name: 'Hold aside again what was put back',
    group: 'Placing',
    keys: 'alt+shift+y',
    press: ({ tryout, did, say }) => {
      const { length } = tryout.holdAgain();
      if (length) did(`${asideCount(length)} again.`);
      else say('Nothing was put back that could be held aside again.');
    },
  },
  {
    id: 'place',
    name: 'Place values on the range or on sections…',
    group: 'Placing',
    keys: 'p',
    press: ({ ask }) => ask({ what: 'place', how: 'place' }),
  },
  {
    id: 'ramp',
    name: 'Ramp to them, or from them…',
    group: 'Placing',
    keys: 'shift+p',
    press: ({ ask }) => ask({ what: 'place', how: 'ramp' }),
  },
];
