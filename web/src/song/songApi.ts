import type { Edit } from '@sure-hand/core/edits';
import { PACKED_TYPE, packed, unpacked } from '@sure-hand/core/formats';
import type {
  Origin,
  Job,
  JournalPiece,
  KeptAnswer,
  ListedBounce,
  ListedSong,
  LoggedPass,
  LostSong,
  OpenJournal,
  Pruned,
  ShelvedFile,
  Stale,
  WholePass,
  WholeSong,
} from '@sure-hand/server';
import { nextTask } from './nextTask.js';

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

declare global {
  /** The song that the address names, asked for while the program of the page still comes; see index.html. */
  var songAhead: { readonly id: number; readonly answer: Promise<Response> } | undefined;
}

type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

type Body = object | Uint8Array<ArrayBuffer>;

/** A body as it goes: packed bytes as they are, all else as JSON. */
function sent(body: Body | undefined): { headers: { [name: string]: string }; body?: BodyInit } {
  if (!body) return { headers: { Accept: PACKED_TYPE } };
  const isPacked = body instanceof Uint8Array;
  const headers = { Accept: PACKED_TYPE, 'Content-Type': isPacked ? PACKED_TYPE : 'application/json' };
  return { headers, body: isPacked ? body : JSON.stringify(body) };
}

/** What the server answered, nothing where it said nothing. An answer that was cut short is none: {@link ServerAway}. */
async function answered(answer: Response): Promise<unknown> {
  try {
    const bytes = new Uint8Array(await answer.arrayBuffer());
    if (!bytes.length) return {};
    if (answer.headers.get('Content-Type')?.startsWith(PACKED_TYPE)) return unpacked(bytes);
    return JSON.parse(new TextDecoder().decode(bytes)) as unknown;
  } catch {
    // Not even a refusal counts, whose reason did not come: only one that names it takes an edit back.
    throw new ServerAway('The server’s answer was cut short.');
  }
}

/**
 * Asks the server for a document, which comes packed; a POST where there is a body and no other method. Throws
 * {@link Refusal} or {@link ServerAway}.
 */
export async function askServer(path: string, body?: Body, method: Method = body ? 'POST' : 'GET'): Promise<unknown> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, { method, ...sent(body) });
  } catch {
    throw new ServerAway('The server can’t be reached.');
  }
  const document = (await answered(answer)) as { sentence?: string };
  if (answer.status === 409) return { ...document, stale: true };
  if (answer.status === 502 || answer.status === 504) throw new ServerAway('The server can’t be reached.');
  if (!answer.ok) throw new Refusal(document.sentence ?? `The server answered ${answer.status}.`, answer.status);
  return document;
}

const ask = (path: string, body?: Body, method?: Method): Promise<unknown> => askServer(`/songs${path}`, body, method);

export const songUrl = (id: number): string => `/api/songs/${id}`;

export const listSongs = (): Promise<ListedSong[]> => ask('') as Promise<ListedSong[]>;

/** `mayBeAhead`: the answer will do that the page asked for as it began, before its program was there. */
export async function fetchSong(id: number, mayBeAhead = false): Promise<WholeSong> {
  const ahead = globalThis.songAhead;
  globalThis.songAhead = undefined;
  const answer = mayBeAhead && ahead?.id === id ? await ahead.answer.catch(() => null) : null;
  const whole = answer?.ok ? await answered(answer).catch(() => null) : null;
  return (whole ?? (await ask(`/${id}`))) as WholeSong;
}

/** More bytes than this take the browser longer to send than to make; they go in a task of their own. */
const LARGE = 1 << 19;

/** Sends an edit made on a revision; its key keeps it from being kept twice. */
export async function sendEdit(id: number, revision: number, edit: Edit, key: string): Promise<KeptAnswer | Stale> {
  const body = packed({ revision, edit, key, brief: true });
  // A page that is being left has no task after this one.
  if (body.length > LARGE && globalThis.document?.visibilityState === 'visible') await nextTask();
  return ask(`/${id}/edits`, body) as Promise<KeptAnswer | Stale>;
}

/** The keys of edits that are kept, as an answer tells of what came first. */
export const keysOf = ({ changes, keys }: Pick<Stale, 'changes' | 'keys'>): readonly string[] =>
  keys ?? changes.flatMap(({ key }) => key ?? []);

/** Takes back a step, or does it again: the one that is meant, where it is named, and no other. */
export const sendStep = (
  id: number,
  which: 'undo' | 'redo',
  asked: { readonly revision: number; readonly step: number | undefined },
): Promise<KeptAnswer | Stale> => ask(`/${id}/${which}`, asked) as Promise<KeptAnswer | Stale>;

/** The revision that the next edit of a song must be made on. */
export const fetchRevision = async (id: number): Promise<number> =>
  ((await ask(`/${id}/revision`)) as { revision: number }).revision;

/** What a song has become since a revision. */
export const fetchChanges = (id: number, since: number): Promise<Stale> =>
  ask(`/${id}/changes?since=${since}`) as Promise<Stale>;

export const duplicateSong = (id: number): Promise<{ id: number }> =>
  ask(`/${id}/duplicate`, {}) as Promise<{ id: number }>;
export const removeSong = async (id: number): Promise<void> => void (await ask(`/${id}`, undefined, 'DELETE'));
export const restoreSong = async (id: number): Promise<void> => void (await ask(`/${id}/restore`, {}));

/** Folders of audio that belong to no song the database knows. */
export const listLost = (): Promise<LostSong[]> => askServer('/lost') as Promise<LostSong[]>;
/** Begins to make a song of one of them again. */
export const bringBackLost = (folder: string): Promise<Job> =>
  askServer(`/lost/${encodeURIComponent(folder)}/song`, {}) as Promise<Job>;
export const deleteLost = async (folder: string): Promise<void> =>
  void (await askServer(`/lost/${encodeURIComponent(folder)}`, undefined, 'DELETE'));

/** Renames a song that is not open here, whatever it has become meanwhile. */
export async function renameSong(id: number, name: string): Promise<void> {
  const key = crypto.randomUUID();
  for (let { revision } = await fetchSong(id); ;) {
    const answer = await sendEdit(id, revision, { kind: 'title', name }, key);
    if (!('stale' in answer && answer.stale)) return;
    revision = answer.revision;
  }
}

/** Every pass of a song, newest first. */
export const fetchPasses = (id: number): Promise<LoggedPass[]> => ask(`/${id}/passes`) as Promise<LoggedPass[]>;
/** One pass with both its curves. */
export const fetchPass = (id: number, number: number): Promise<WholePass> =>
  ask(`/${id}/passes/${number}`) as Promise<WholePass>;
/** The last pass that was not undone; null where there is none. */
export async function fetchLastPass(id: number): Promise<WholePass | null> {
  const last = (await fetchPasses(id)).find((pass) => !pass.undone);
  return last ? fetchPass(id, last.number) : null;
}
/** What pruning the log down to its last entries, and those with a name, would take away. */
export const forecastPruning = (id: number, keep: number): Promise<Pruned> =>
  ask(`/${id}/prune?keep=${keep}`) as Promise<Pruned>;
export const pruneLog = (id: number, keep: number): Promise<Pruned> => ask(`/${id}/prune`, { keep }) as Promise<Pruned>;
/** What wrote a layer of a lane at a time last; null where nothing did. */
export const fetchOrigin = async (
  id: number,
  { control, layer, t }: { readonly control: string; readonly layer: string; readonly t: number },
): Promise<Origin | null> =>
  (
    (await ask(`/${id}/origin?control=${encodeURIComponent(control)}&layer=${layer}&t=${t}`)) as {
      origin: Origin | null;
    }
  ).origin;
/** The passes that changed one lane, newest first, with its curves alone: so many at most. */
export const fetchLanePasses = (id: number, control: string, most: number): Promise<WholePass[]> =>
  ask(`/${id}/lane-passes?control=${encodeURIComponent(control)}&most=${most}`) as Promise<WholePass[]>;
export const describePass = async (
  id: number,
  number: number,
  words: { name?: string; note?: string },
): Promise<void> => void (await ask(`/${id}/passes/${number}`, words, 'PUT'));
/** Begins to measure the mix before and after a pass over a range; the job's result is a `PassLoudness`. */
export const measurePass = (id: number, number: number, range: readonly [number, number]): Promise<Job> =>
  ask(`/${id}/passes/${number}/loudness`, { range }) as Promise<Job>;

/** Writes a piece of an open pass's journal. */
export const sendJournal = async (id: number, key: string, piece: JournalPiece): Promise<void> =>
  void (await ask(`/${id}/journals/${key}`, piece, 'PUT'));
export const dropJournal = async (id: number, key: string): Promise<void> =>
  void (await ask(`/${id}/journals/${key}`, undefined, 'DELETE'));
/** Passes that were cut short, as the server has them. */
export const fetchJournals = (id: number): Promise<OpenJournal[]> => ask(`/${id}/journals`) as Promise<OpenJournal[]>;

/** Which of some keys belong to passes that are kept already. */
export const fetchKept = async (id: number, keys: readonly string[]): Promise<string[]> =>
  keys.length ? ((await ask(`/${id}/kept`, { keys })) as { keys: string[] }).keys : [];

/** The peaks of an audio file; see core's `peaksOf`. A server that failed over them is asked again, as one that is away. */
export async function fetchPeaks(id: number, file: string): Promise<ArrayBuffer> {
  const answer = await fetch(`${songUrl(id)}/peaks/${encodeURIComponent(file)}`).catch(() => {
    throw new ServerAway('The server can’t be reached.');
  });
  if (answer.status >= 500) throw new ServerAway('The server failed.');
  if (!answer.ok) throw new Refusal(`The waveform of ${file} can’t be had.`, answer.status);
  return answer.arrayBuffer();
}

export const listJobs = (): Promise<Job[]> => askServer('/jobs') as Promise<Job[]>;
export const cancelJob = async (id: string): Promise<void> =>
  void (await askServer(`/jobs/${id}`, undefined, 'DELETE'));

/** What is to be bounced: the mix, or each of some channels by itself; see the server's description of its API. */
export type BounceOrder = {
  readonly bits: '16' | '24' | '32f';
  readonly range?: readonly [number, number];
  readonly stems?: readonly string[];
  readonly throughMain?: boolean;
};
export const listBounces = (id: number): Promise<ListedBounce[]> => ask(`/${id}/bounces`) as Promise<ListedBounce[]>;
export const beginBounce = (id: number, order: BounceOrder): Promise<Job> =>
  ask(`/${id}/bounces`, order) as Promise<Job>;
export const deleteBounce = async (id: number, bounce: number): Promise<void> =>
  void (await ask(`/${id}/bounces/${bounce}`, undefined, 'DELETE'));
export const bounceUrl = (id: number, bounce: number): string => `${songUrl(id)}/bounces/${bounce}/file`;
export const zipUrl = (id: number): string => `${songUrl(id)}/zip`;
export const documentUrl = (id: number): string => `${songUrl(id)}/document`;

/** What is known of an audio file of a song, or why it can't be played. */
export const fetchFile = (id: number, name: string): Promise<ShelvedFile> =>
  askServer(`/songs/${id}/files/${encodeURIComponent(name)}`) as Promise<ShelvedFile>;
