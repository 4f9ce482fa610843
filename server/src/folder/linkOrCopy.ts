import { copyFileSync, linkSync } from 'node:fs';
import { syncToDisk } from '@sure-hand/audio-files';

/** What a file system answers that has no second names for a file, or no more of them. */
const NO_LINKS = new Set(['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EXDEV', 'EMLINK', 'EACCES', 'EINVAL']);

/** Whether a link failed since there are none here. */
export const isWithoutLinks = (error: unknown): boolean => NO_LINKS.has((error as { code?: string }).code ?? '');

/** Puts a file that is never changed in place under a second name: the same one on the disk where that can be, else a copy of it. */
export function linkOrCopy(from: string, to: string): void {
  try {
    linkSync(from, to);
  } catch (error) {
    if (!isWithoutLinks(error)) throw error;
    copyFileSync(from, to);
    syncToDisk(to);
  }
}
