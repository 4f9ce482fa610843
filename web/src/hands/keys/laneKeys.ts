import { channelOf, type ControlId } from '@sure-hand/core/song';
import { GRIDS } from '@sure-hand/core/time';
import { channelInHand, withHand, type CommandScene } from '../commandScene.js';
import type { Command } from './command.js';

/** The row after the one in hand, or before it, is mended with it; round no end. */
function chooseNext({ onView, inHand, choose }: CommandScene, step: 1 | -1): void {
  const at = inHand ? onView.indexOf(inHand) : -1;
  const next: ControlId | undefined = at < 0 ? onView[0] : onView[at + step];
  if (next) choose(next);
}

/** Keys of lanes: which are open, which are looked at, which are mended together, what they snap to. */
export const laneKeys: readonly Command[] = [
  { id: 'lanes', name: 'Lanes of the channel…', group: 'Lanes', keys: 'a', press: ({ ask }) => ask({ what: 'lanes' }) },
  {
    id: 'inserts',
    name: 'Inserts of the channel…',
    group: 'Lanes',
    keys: 'shift+e',
    press: ({ ask }) => ask({ what: 'inserts' }),
  },
  {
    id: 'effect',
    name: 'Picture of the insert in hand…',
    group: 'Lanes',
    keys: 'alt+shift+e',
    press: ({ ask }) => ask({ what: 'effect' }),
  },
  {
    id: 'putAway',
    name: 'Put all lanes away, or bring them back',
    group: 'Lanes',
    keys: 'shift+a',
    press: ({ putLanesAway }) => putLanesAway(),
  },
  {
    id: 'onlyCurves',
    name: 'Only what has curves',
    group: 'Lanes',
    keys: 'alt+a',
    press: ({ filter, look }) => look({ onlyCurves: !filter.onlyCurves }),
  },
  {
    id: 'rowsByName',
    name: 'Rows by name',
    group: 'Lanes',
    keys: 'alt+slash',
    press: () => document.getElementById('rows-by-name')?.focus(),
  },
  {
    id: 'stack',
    name: 'Keep the lane in hand open, or put it away',
    group: 'Lanes',
    keys: 'alt+l',
    press: withHand(({ stack }, id) => stack(id)),
  },
  {
    id: 'foldFamily',
    name: 'Fold the family, or open it',
    group: 'Lanes',
    keys: 'alt+f',
    press: (scene) => {
      const key = channelInHand(scene);
      const channel = key === null ? null : channelOf(scene.song, key);
      if (channel) scene.foldFamily(channel);
    },
  },
  {
    id: 'chooseNext',
    name: 'Mend the row below as well',
    group: 'Lanes',
    keys: 'mod+down',
    press: (scene) => chooseNext(scene, 1),
  },
  {
    id: 'choosePrevious',
    name: 'Mend the row above as well',
    group: 'Lanes',
    keys: 'mod+up',
    press: (scene) => chooseNext(scene, -1),
  },
  {
    id: 'grid',
    name: 'Snap to the next grid',
    group: 'Lanes',
    keys: 'alt+g',
    press: ({ grid, snapTo }) => snapTo(grid === null ? GRIDS[0] : (GRIDS[GRIDS.indexOf(grid) + 1] ?? null)),
  },
  {
    id: 'numbers',
    name: 'Points of the lane as numbers',
    group: 'Lanes',
    keys: 'alt+n',
    press: ({ showNumbers }) => showNumbers(),
  },
];
