import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Copied } from '@sure-hand/server/folder';
import { Refused } from './refused.js';
import { say } from './say.js';

/** The folder of the whole program, in which the data folder is where nobody says otherwise. */
const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const dataFolder = (data: string | undefined): string =>
  data === undefined ? resolve(root, process.env.SURE_HAND_DATA ?? 'data') : resolve(data);

/** What looks after the data folder is fetched by these two commands alone: it brings the database's driver. */
type Folder = typeof import('@sure-hand/server/folder');
async function withFolder<T>(act: (folder: Folder) => Promise<T>): Promise<T> {
  const folder = await import('@sure-hand/server/folder');
  try {
    return await act(folder);
  } catch (error) {
    if (error instanceof folder.FolderTrouble) throw new Refused(error.message);
    if ((error as { code?: string }).code)
      throw new Refused(`It was given up, and nothing was taken away: ${(error as Error).message}.`);
    throw error;
  }
}

/** `backup`: copies the data folder into another; gives back what is printed. */
export const backup = (options: { to: string; data?: string }): Promise<Copied & { readonly to: string }> =>
  withFolder(async (folder) => {
    const to = resolve(options.to);
    return { to, ...(await folder.backUp(dataFolder(options.data), to, say)) };
  });

/** `restore`: puts a backup in the data folder's place; gives back what is printed. */
export const restore = (options: { from: string; data?: string }): ReturnType<Folder['restore']> =>
  withFolder((folder) => folder.restore(dataFolder(options.data), resolve(options.from), say));
