import type { Edit } from '@sure-hand/core/song';
import type { KeptAnswer, ListedSong, WholeSong } from '@sure-hand/server';

/** What the server said no to, in its own sentence. */
export class Refusal extends Error {
  constructor(
    sentence: string,
    readonly status: number,
  ) {
    super(sentence);
  }
}

/** The server could not be reached at all. */
export class ServerAway extends Error {}

/** An edit that another one came before: what was applied since. */
export type StaleAnswer = { readonly stale: true; readonly revision: number; readonly changes: readonly Edit[] };

async function ask(path: string, body?: object): Promise<unknown> {
  let answer: Response;
  try {
    answer = await fetch(`/api/songs${path}`, {
      method: body ? 'POST' : 'GET',
      ...(body ? { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) } : {}),
    });
  } catch {
    throw new ServerAway('The server can’t be reached.');
  }
  const json = (await answer.json().catch(() => ({}))) as { sentence?: string };
  if (answer.status === 409) return { ...json, stale: true };
  if (answer.status === 502 || answer.status === 504) throw new ServerAway('The server can’t be reached.');
  if (!answer.ok) throw new Refusal(json.sentence ?? `The server answered ${answer.status}.`, answer.status);
  return json;
}

export const songUrl = (id: number): string => `/api/songs/${id}`;

export const listSongs = (): Promise<ListedSong[]> => ask('') as Promise<ListedSong[]>;

export const fetchSong = (id: number): Promise<WholeSong> => ask(`/${id}`) as Promise<WholeSong>;

/** Sends an edit made on a revision. */
export const sendEdit = (id: number, revision: number, edit: Edit): Promise<KeptAnswer | StaleAnswer> =>
  ask(`/${id}/edits`, { revision, edit }) as Promise<KeptAnswer | StaleAnswer>;

export const sendStep = (id: number, revision: number, which: 'undo' | 'redo'): Promise<KeptAnswer | StaleAnswer> =>
  ask(`/${id}/${which}`, { revision }) as Promise<KeptAnswer | StaleAnswer>;

/** The peaks of an audio file; see core's `peaksOf`. */
export async function fetchPeaks(id: number, file: string): Promise<ArrayBuffer> {
  const answer = await fetch(`${songUrl(id)}/peaks/${encodeURIComponent(file)}`);
  if (!answer.ok) throw new Refusal(`The waveform of ${file} can’t be had.`, answer.status);
  return answer.arrayBuffer();
}
