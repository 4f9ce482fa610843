import type { Job, StagedStem } from '@sure-hand/server';
import { Refusal, ServerAway, askServer } from './songApi.js';

/** How an upload is followed and given up. */
export type Upload = { readonly onShare: (share: number) => void; readonly signal: AbortSignal };

/** Sends a file's bytes as they are. Throws {@link Refusal} or {@link ServerAway}; an abort ends it with an `AbortError`. */
function sendFile(method: 'PUT' | 'POST', path: string, file: File, { onShare, signal }: Upload): Promise<unknown> {
  return new Promise((done, fail) => {
    // Not fetch: only this tells how much of the body has gone.
    const request = new XMLHttpRequest();
    request.open(method, `/api${path}`);
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.responseType = 'json';
    request.upload.onprogress = ({ loaded, total }) => onShare(total ? loaded / total : 0);
    request.onload = () => {
      const answer = request.response as { sentence?: string } | null;
      if (request.status < 300) return done(answer);
      fail(new Refusal(answer?.sentence ?? `The server answered ${request.status}.`, request.status));
    };
    request.onerror = () => fail(new ServerAway('The server can’t be reached.'));
    request.onabort = () => fail(new DOMException('given up', 'AbortError'));
    if (signal.aborted) return fail(new DOMException('given up', 'AbortError'));
    signal.addEventListener('abort', () => request.abort(), { once: true });
    request.send(file);
  });
}

/** A place on the server for the stems of a new song. */
export const beginImport = async (): Promise<string> => ((await askServer('/imports', {})) as { id: string }).id;
export const dropImport = async (id: string): Promise<void> =>
  void (await askServer(`/imports/${id}`, undefined, 'DELETE'));

/** Sends one stem; answered with what it is, or why it cannot be used. */
export const sendStem = (id: string, file: File, upload: Upload): Promise<StagedStem> =>
  sendFile('PUT', `/imports/${id}/stems?name=${encodeURIComponent(file.name)}`, file, upload) as Promise<StagedStem>;

/** A new song as it is asked for. */
export type SongOrder = {
  readonly name: string;
  readonly sampleRate: number;
  readonly bpm: number;
  readonly beats: number;
  readonly unit: number;
  readonly sections: readonly { readonly t: number; readonly name: string }[];
  readonly tracks: readonly { readonly stem: string; readonly name: string; readonly family: string }[];
};
export const makeSong = (id: string, order: SongOrder): Promise<Job> =>
  askServer(`/imports/${id}/song`, order) as Promise<Job>;

/** Sends a song that was saved with its audio. */
export const sendZip = (file: File, upload: Upload): Promise<Job> =>
  sendFile('POST', `/songs/zip?name=${encodeURIComponent(file.name)}`, file, upload) as Promise<Job>;

/** Takes stems into a song that is there. */
export const takeStemsInto = (
  id: string,
  songId: number,
  tracks: readonly { readonly stem: string; readonly name: string; readonly family: string }[],
): Promise<Job> => askServer(`/imports/${id}/into/${songId}`, { tracks }) as Promise<Job>;
