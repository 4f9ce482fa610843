import type { CommandScene } from '../commandScene.js';

/** Something a key can do; see `keyNames.ts` for how keys are named. `release` is what letting the key up does. */
export type Command = {
  readonly id: string;
  readonly name: string;
  readonly group:
    | 'Transport'
    | 'In hand'
    | 'Modes'
    | 'Passes'
    | 'Placing'
    | 'Snapshots'
    | 'Guards'
    | 'Range'
    | 'Families'
    | 'Desk'
    | 'Mending'
    | 'Lanes'
    | 'Song'
    | 'View'
    | 'Steps';
  readonly keys: string;
  readonly press: (scene: CommandScene) => void;
  readonly release?: (scene: CommandScene) => void;
  /** Held, the key does it again and again; any other does what it does once, however long it is held. */
  readonly repeats?: true;
  /** Where it says no, the key is left to the page. */
  readonly fits?: (scene: CommandScene) => boolean;
};
