import type { CommandScene } from '../commandScene.js';
import type { Command } from './command.js';

/** A press that acts on the snapshot in hand; says so where there is none. */
const withSnapshot = (act: (scene: CommandScene, key: string) => void) => (scene: CommandScene) => {
  const { song, snapshot, say } = scene;
  if (snapshot && song.snapshots.some(({ key }) => key === snapshot)) act(scene, snapshot);
  else say('No snapshot is in hand: N takes one here, and Ctrl+Shift+↓ goes through those there are.');
};

/** Takes the next snapshot of the song, or the one before, round the end. */
function takeOther({ song, snapshot, takeSnapshot, say }: CommandScene, step: 1 | -1): void {
  const { snapshots } = song;
  if (!snapshots.length) return say('There are no snapshots yet: N takes one here.');
  const at = snapshots.findIndex(({ key }) => key === snapshot);
  const next = at < 0 ? (step > 0 ? 0 : snapshots.length - 1) : (at + step + snapshots.length) % snapshots.length;
  takeSnapshot(snapshots[next]!.key);
}

/** Keys of snapshots. */
export const snapshotKeys: readonly Command[] = [
  {
    id: 'take',
    name: 'Take a snapshot here…',
    group: 'Snapshots',
    keys: 'n',
    press: ({ ask }) => ask({ what: 'take' }),
  },
  {
    id: 'nextSnapshot',
    name: 'The next snapshot in hand',
    group: 'Snapshots',
    keys: 'mod+shift+down',
    press: (scene) => takeOther(scene, 1),
  },
  {
    id: 'snapshotBefore',
    name: 'The snapshot before',
    group: 'Snapshots',
    keys: 'mod+shift+up',
    press: (scene) => takeOther(scene, -1),
  },
  {
    id: 'placeSnapshot',
    name: 'Place the snapshot in hand…',
    group: 'Snapshots',
    keys: 'alt+p',
    press: withSnapshot(({ ask }, snapshot) => ask({ what: 'place', how: 'place', snapshot })),
  },
  {
    id: 'rampSnapshot',
    name: 'Ramp to the snapshot in hand…',
    group: 'Snapshots',
    keys: 'alt+shift+p',
    press: withSnapshot(({ ask }, snapshot) => ask({ what: 'place', how: 'ramp', snapshot })),
  },
  {
    id: 'recall',
    name: 'Poise the snapshot in hand; rolling, punch it in',
    group: 'Snapshots',
    keys: 'alt+d',
    press: withSnapshot(({ recall }, key) => recall(key)),
  },
  {
    id: 'trySnapshot',
    name: 'Hold the snapshot in hand aside',
    group: 'Snapshots',
    keys: 'alt+shift+d',
    press: withSnapshot(({ holdSnapshot }, key) => holdSnapshot(key)),
  },
  {
    id: 'updateSnapshot',
    name: 'Update the snapshot in hand from here',
    group: 'Snapshots',
    keys: 'alt+shift+n',
    press: withSnapshot(({ updateSnapshot }, key) => updateSnapshot(key)),
  },
];
