import type { CommandScene } from '../commandScene.js';
import {
  STEP,
  addPointAtLine,
  clearPoints,
  fadeRange,
  hearRange,
  pickPass,
  pickPoints,
  pickRange,
} from '../mending.js';
import { nudgePoints, scalePoints } from '../moving.js';
import { putShoulders } from '../shoulders.js';
import { SYSTEM_CLIPBOARD, copyRange, duplicateRange, pasteAtLine } from '../clipboard.js';
import type { Command } from './command.js';

const nudge =
  (t: number, travel: number) =>
  (scene: CommandScene): void =>
    nudgePoints(scene, { t, travel });
const { travel, sec, factor } = STEP;

/** Keys that mend the curve in hand: its picked points, or what stands in the range. */
export const mendKeys: readonly Command[] = [
  { id: 'clear', name: 'Clear the picked points, or the range', group: 'Mending', keys: 'delete', press: clearPoints },
  {
    id: 'copy',
    name: 'Copy the range of the lane',
    group: 'Mending',
    keys: 'mod+c',
    press: (scene) => void copyRange(scene, SYSTEM_CLIPBOARD),
  },
  {
    id: 'cut',
    name: 'Cut it',
    group: 'Mending',
    keys: 'mod+x',
    press: (scene) => void copyRange(scene, SYSTEM_CLIPBOARD, true),
  },
  {
    id: 'paste',
    name: 'Paste at the line',
    group: 'Mending',
    keys: 'mod+v',
    press: (scene) => void pasteAtLine(scene, SYSTEM_CLIPBOARD, () => scene.ask({ what: 'paste' })),
  },
  {
    id: 'pasteTo',
    name: 'Paste to sections, lanes, kinds…',
    group: 'Mending',
    keys: 'mod+shift+v',
    press: ({ ask }) => ask({ what: 'paste' }),
  },
  {
    id: 'shift',
    name: 'Move, scale or lift by numbers…',
    group: 'Mending',
    keys: 'shift+g',
    press: ({ ask }) => ask({ what: 'shift' }),
  },
  { id: 'duplicate', name: 'The range once more after itself', group: 'Mending', keys: 'mod+d', press: duplicateRange },
  {
    id: 'clearBy',
    name: 'Clear by scope…',
    group: 'Mending',
    keys: 'shift+delete',
    press: ({ ask }) => ask({ what: 'clear' }),
  },
  {
    id: 'draw',
    name: 'Draw with the pointer, while held',
    group: 'Mending',
    keys: 'z',
    press: ({ draw }) => draw('held'),
    release: ({ draw }) => draw(null),
  },
  { id: 'wave', name: 'Shape over the range…', group: 'Mending', keys: 'g', press: ({ ask }) => ask({ what: 'wave' }) },
  { id: 'sway', name: 'Sway…', group: 'Mending', keys: 'alt+shift+g', press: ({ ask }) => ask({ what: 'sway' }) },
  {
    id: 'typePoints',
    name: 'Type the picked points…',
    group: 'Mending',
    keys: 'shift+equal',
    press: ({ ask }) => ask({ what: 'points' }),
  },
  { id: 'thin', name: 'Thin…', group: 'Mending', keys: 'h', press: ({ ask }) => ask({ what: 'thin' }) },
  {
    id: 'fadeIn',
    name: 'Fade in over the range',
    group: 'Mending',
    keys: 'alt+i',
    press: (scene) => fadeRange(scene, 'in'),
  },
  {
    id: 'fadeOut',
    name: 'Fade out over the range',
    group: 'Mending',
    keys: 'alt+o',
    press: (scene) => fadeRange(scene, 'out'),
  },
  {
    id: 'hearRange',
    name: 'Hear the range, or what is picked',
    group: 'Mending',
    keys: 'q',
    press: (scene) => hearRange(scene, false),
  },
  {
    id: 'hearAgain',
    name: 'Hear it again and again',
    group: 'Mending',
    keys: 'shift+q',
    press: (scene) => hearRange(scene, true),
  },
  {
    id: 'addPoint',
    name: 'Add a point at the line',
    group: 'Mending',
    keys: 'insert',
    press: (scene) => addPointAtLine(scene, scene.control.position),
  },
  {
    id: 'pickAll',
    name: 'Pick all points of the lane',
    group: 'Mending',
    keys: 'mod+a',
    press: (scene) => pickPoints(scene),
  },
  {
    id: 'pickOn',
    name: 'Pick all from the line on',
    group: 'Mending',
    keys: 'mod+shift+a',
    press: (scene) => pickPoints(scene, scene.control.position),
  },
  { id: 'pickRange', name: 'Pick the points in the range', group: 'Mending', keys: 'alt+r', press: pickRange },
  { id: 'pickPass', name: 'Pick what the last pass wrote', group: 'Mending', keys: 'shift+r', press: pickPass },
  { id: 'shoulders', name: 'Shoulders for the picked point', group: 'Mending', keys: 'alt+s', press: putShoulders },
  {
    id: 'scaleUp',
    name: 'Points further apart in height',
    group: 'Mending',
    keys: 'alt+period',
    press: (scene) => scalePoints(scene, factor.coarse),
  },
  {
    id: 'scaleDown',
    name: 'Points nearer to the lowest',
    group: 'Mending',
    keys: 'alt+comma',
    press: (scene) => scalePoints(scene, 1 / factor.coarse),
  },
  {
    id: 'scaleUpFine',
    name: 'Further apart finely',
    group: 'Mending',
    keys: 'alt+shift+period',
    press: (scene) => scalePoints(scene, factor.fine),
  },
  {
    id: 'scaleDownFine',
    name: 'Nearer finely',
    group: 'Mending',
    keys: 'alt+shift+comma',
    press: (scene) => scalePoints(scene, 1 / factor.fine),
  },
  { id: 'pointsUp', name: 'Points up, or the range', group: 'Mending', keys: 'alt+up', press: nudge(0, travel.coarse) },
  {
    id: 'pointsDown',
    name: 'Points down, or the range',
    group: 'Mending',
    keys: 'alt+down',
    press: nudge(0, -travel.coarse),
  },
  { id: 'pointsUpFine', name: 'The same finely', group: 'Mending', keys: 'alt+shift+up', press: nudge(0, travel.fine) },
  {
    id: 'pointsDownFine',
    name: 'Down finely',
    group: 'Mending',
    keys: 'alt+shift+down',
    press: nudge(0, -travel.fine),
  },
  { id: 'pointsLater', name: 'Points later', group: 'Mending', keys: 'alt+right', press: nudge(sec.coarse, 0) },
  { id: 'pointsEarlier', name: 'Points earlier', group: 'Mending', keys: 'alt+left', press: nudge(-sec.coarse, 0) },
  { id: 'pointsLaterFine', name: 'Later finely', group: 'Mending', keys: 'alt+shift+right', press: nudge(sec.fine, 0) },
  {
    id: 'pointsEarlierFine',
    name: 'Earlier finely',
    group: 'Mending',
    keys: 'alt+shift+left',
    press: nudge(-sec.fine, 0),
  },
];
