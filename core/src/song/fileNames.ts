import { bytesOfText } from './text.js';

/** A file's name may have so many bytes: file systems take 255, and what is made of a file is called after it with an ending. */
const MOST_BYTES = 240;

/** Whether a name is one that a file beside a song document can have everywhere: no path, nothing hidden, of a length that file systems take. */
export const isPlainFileName = (name: string, mostBytes = MOST_BYTES): boolean =>
  /^[^./\\\p{Cc}][^/\\\p{Cc}]*$/u.test(name) && name.isWellFormed() && bytesOfText(name).length <= mostBytes;

/**
 * A name that a file can have, made of any text: what file systems don't take stands as `_`, and so much is left out at its
 * end that `more` (an ending, a number) has room behind it.
 */
export function plainFileName(text: string, more = ''): string {
  let name = text
    .toWellFormed()
    .replace(/[/\\:*?"<>|\p{Cc}]/gu, '_')
    .replace(/^\./, '_');
  const room = MOST_BYTES - bytesOfText(more).length;
  while (bytesOfText(name).length > room) name = [...name].slice(0, -1).join('');
  return `${name.trim() || '_'}${more}`;
}
