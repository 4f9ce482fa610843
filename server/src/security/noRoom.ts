import { HttpException } from '@nestjs/common';

const INSUFFICIENT_STORAGE = 507;

const NO_ROOM =
  'The disk that the data folder is on is full, so this could not be kept. What was kept before is safe. Make room there and do it again; what the page has yet to send it sends again by itself.';

/** What the system, or the database, says of a disk without room. */
const SAYS_FULL = /^(ENOSPC|EDQUOT|SQLITE_FULL)$|\b(ENOSPC|EDQUOT|SQLITE_FULL)\b/;

/** The sentence where an error is that of a full disk, however deep it is wrapped; null where it is another. */
export function noRoomSentence(error: unknown): string | null {
  for (let one = error, depth = 0; one instanceof Error && depth < 4; depth++) {
    const { code = '', original, cause } = one as Error & { code?: string; original?: unknown };
    if (SAYS_FULL.test(String(code)) || SAYS_FULL.test(one.message)) return NO_ROOM;
    one = original ?? cause;
  }
  return null;
}

/** An error as it is answered: that of a full disk by its sentence, any other as it is. */
export function answerable(error: unknown): unknown {
  const full = error instanceof HttpException ? null : noRoomSentence(error);
  return full === null ? error : new HttpException(full, INSUFFICIENT_STORAGE, { cause: error });
}
