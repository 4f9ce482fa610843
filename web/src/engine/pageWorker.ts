import { expose } from 'comlink';
import type { ClipPlan } from '@sure-hand/core/mix';
import { KEEP, PageKeeper } from './pageKeeper.js';
import { T_FLOAT, T_INT, viewsOf, type SharedBuffers, type SharedViews, type StreamedFile } from './sharedLayout.js';

const TEND_EVERY_MS = 50;
/** Play waits for this much of what it begins with. */
const START_SEC = 0.4;
/** Looks for it so often, every 5 ms: a server that is busy with something else gets its ten seconds. */
const PATIENCE = 2000;

let keeper: PageKeeper | null = null;
let views: SharedViews | null = null;
let loop: readonly [number, number] | null = null;

const lineAt = (): number =>
  Atomics.load(views!.ints, T_INT.playing) ? views!.floats[T_FLOAT.frame]! : views!.floats[T_FLOAT.wanted]!;

const tend = (): void => {
  keeper?.tend(lineAt(), loop);
};
setInterval(tend, TEND_EVERY_MS);

const worker = {
  /** Begins to keep the pages of a song's files. */
  open(files: readonly StreamedFile[], buffers: SharedBuffers, songUrl: string, sampleRate: number): void {
    views = viewsOf(buffers);
    keeper = new PageKeeper(
      files,
      views,
      async (file, from, length) => {
        const range = `bytes=${from}-${from + length - 1}`;
        const answer = await fetch(`${songUrl}/audio/${encodeURIComponent(file.name)}`, {
          headers: { Range: range },
          // It is kept here: the browser need not keep it too.
          cache: 'no-store',
        });
        if (answer.status !== 206) throw new Error(`the server answered ${answer.status}`);
        return new Uint8Array(await answer.arrayBuffer());
      },
      sampleRate,
      buffers.poolPages,
    );
  },
  addFiles(more: readonly StreamedFile[]): void {
    keeper?.addFiles(more);
  },
  setClips(clips: readonly ClipPlan[]): void {
    keeper?.setClips(clips);
    tend();
  },
  setLoop(range: readonly [number, number] | null): void {
    loop = range;
  },
  /** Waits until what play would begin with is in memory; null, or the sentence why it does not come. */
  ready: (frame: number): Promise<string | null> => isThere(() => frame, START_SEC),
  /** Waits until all that sounds from the line on, wherever that has come to by then, is as far ahead as it is kept. */
  readyAtLine: (): Promise<string | null> => isThere(lineAt, KEEP.sureSec),
};

/** Waits until all of some seconds from a frame on is in memory; null, or the sentence why it does not come. */
async function isThere(frame: () => number, sec: number): Promise<string | null> {
  tend();
  for (let tries = 0; keeper && !keeper.isReady(frame(), sec, loop); tries++) {
    if (keeper.failed && tries > 20) return keeper.failed;
    if (tries > PATIENCE) return 'The audio does not come from the server. Look whether it runs, then play again.';
    await new Promise((wake) => setTimeout(wake, 5));
    tend();
  }
  return null;
}

/** What the main thread can ask of the page worker. */
export type PageWorker = typeof worker;

expose(worker);
