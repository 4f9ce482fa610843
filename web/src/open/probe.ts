import type { Receipt } from '@sure-hand/core/edits';
import type { SongEngine } from '../engine/songEngine.js';
import type { HandSession } from '../hands/handSession.js';
import type { SongState } from '../song/songSlice.js';

/** What the browser tests and the bench read of the running application: measurements, never a way to act. */
export type Probe = {
  /** What the audio thread applies to a channel's left side, at the song time of the frame it will render next. */
  readonly gain: (channel: string) => { readonly t: number; readonly gain: number };
  readonly peak: (channel: string) => number;
  /** Song time as heard, now or at a moment of the page's clock (an event's time stamp). */
  readonly heard: (atMs?: number) => number;
  readonly counts: () => { readonly blocks: number; readonly underruns: number };
  readonly touched: () => readonly string[];
  /** Whether the song moves, or is about to. */
  readonly isMoving: () => boolean;
  /** The song as the page has it, as open JSON. */
  readonly document: () => string;
  /** What was told of the last passes of this page, the last one last, as open JSON. */
  readonly told: () => readonly string[];
  /** How much of what was done here has not been taken by the server yet: settled deeds not told, and edits that wait. */
  readonly unsent: () => number;
  /** Times and values that the open pass has of a control, as the recorder stamped them. */
  readonly stamped: (control: string) => readonly { readonly t: number; readonly v: number }[];
  /** Main-thread milliseconds of the last pictures, newest last. */
  readonly pictures: number[];
  /** Where the now line stands, in pixels from the lanes' left edge. */
  lineX: number;
};

declare global {
  var sureHandProbe: Probe | undefined;
}

const PICTURES_KEPT = 4096;
const TOLD_KEPT = 256;

/** Puts the probe where tests find it; gives back what takes it away again, and the song with it. */
export function showProbe(
  engine: SongEngine,
  session: HandSession,
  shown: () => Pick<SongState, 'song' | 'pending'>,
): () => void {
  const told: string[] = [];
  const probe: Probe = {
    gain: (channel) => engine.gainNow(channel),
    peak: (channel) => engine.meterOf(channel)[0],
    heard: (atMs = performance.now()) => engine.positionAt(atMs),
    counts: () => engine.counts,
    touched: () => session.recorder.touched,
    isMoving: () => session.isMoving || session.isStarting,
    document: () => JSON.stringify(shown().song),
    told: () => told,
    unsent: () => Number(session.waits) + shown().pending.length,
    stamped: (control) =>
      session.recorder.roll?.takes
        .filter((take) => take.control === control)
        .flatMap((take) => take.spans.flatMap((span) => span.values)) ?? [],
    pictures: [],
    lineX: 0,
  };
  globalThis.sureHandProbe = probe;
  return () => {
    if (globalThis.sureHandProbe === probe) globalThis.sureHandProbe = undefined;
  };
}

/** Notes the receipt of a pass as it is told. What comes late is told again, by the same key. */
export function noteReceipt({ key, receipt }: { readonly key: string; readonly receipt: Receipt }): void {
  const told = globalThis.sureHandProbe?.told() as string[] | undefined;
  told?.push(JSON.stringify({ key, receipt }));
  told?.splice(0, told.length - TOLD_KEPT);
}

/** Notes how long a picture took the main thread, and where it has the line, where it has one. */
export function notePicture(ms: number, lineX?: number): void {
  const probe = globalThis.sureHandProbe;
  if (!probe) return;
  if (lineX !== undefined) probe.lineX = lineX;
  const { pictures } = probe;
  pictures.push(ms);
  if (pictures.length > PICTURES_KEPT) pictures.splice(0, pictures.length - PICTURES_KEPT);
}
