import { existsSync } from 'node:fs';
import { join } from 'node:path';

/** The database's name in the data folder. */
export const DATABASE_FILE = 'sure-hand.sqlite';

/** What stands in a song's folder beside its audio: no audio file may be called so. */
export const IN_SONG = {
  /** The document as it was when the song was last left alone. */
  document: 'song.json',
  peaks: 'peaks',
  bounces: 'bounces',
  /** Is there until the song's row is kept: a folder with it and without a row is half made. */
  halfMade: 'half-made',
} as const;

/** Folders that a song's folder is called while it is not yet, or no longer, one. */
export const MAKING = 'making-';
export const REMOVING = 'removing-';

/** Where things lie in the data folder. */
export const songsIn = (dataFolder: string): string => join(dataFolder, 'songs');
export const lostIn = (dataFolder: string): string => join(dataFolder, 'lost');
/** What upgrades of the folder found there is kept in here, a folder for each. */
export const upgradesIn = (dataFolder: string): string => join(dataFolder, 'before-upgrade');

/** A time as it may stand in a file's name, to the second. */
export const stampOf = (at: Date): string => at.toISOString().slice(0, 19).replaceAll(':', '-');

/** A path in a folder that nothing has: the name itself, or with a number. */
export function freePath(folder: string, name: string, extension = ''): string {
  for (let n = 1; ; n++) {
    const path = join(folder, `${name}${n === 1 ? '' : ` (${n})`}${extension}`);
    if (!existsSync(path)) return path;
  }
}
