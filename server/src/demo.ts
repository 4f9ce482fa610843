import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readSong } from '@sure-hand/core/formats';
import { PassRecorder } from '@sure-hand/core/pass';
import type { Edit } from '@sure-hand/core/edits';
import { demoPasses, demoStates, makeSong, solvedNotes, type DemoName, type Progress } from '@sure-hand/demo-song';
import type { AudioShelf } from './audio/audioShelf.js';
import { markDemoMade } from './demoMark.js';
import type { LostAndFound } from './folder/lostAndFound.js';
import type { PassLog } from './passes/passLog.js';
import type { SongStore } from './songs/songStore.js';

/** Says which song it is while its passes are still being ridden. */
const HALF_MADE = 'demo-being-ridden';

/** Makes the demo song, as a first start does, saying how far it is. */
export async function makeDemo(
  { store, passes, shelf, lost }: { store: SongStore; passes: PassLog; shelf: AudioShelf; lost: LostAndFound },
  dataFolder: string,
  options: { readonly name: DemoName; readonly say: (sentence: string) => void },
): Promise<void> {
  await forgetHalfMade(lost, dataFolder);
  const began = performance.now();
  const making = shelf.beginFolder();
  options.say('Making the demo song. This happens once.');
  let bytes = 0;
  const onProgress = ({ done, of, what, bytes: now }: Progress): void => {
    bytes = now;
    options.say(`  ${done} of ${of}: ${what}`);
  };
  const read = readSong(await makeSong(options.name, { folder: shelf.folder(making), onProgress }));
  if (!read.ok) throw new Error(read.sentence);
  const id = await store.create(read.value, (made) => {
    writeFileSync(join(dataFolder, HALF_MADE), String(made));
    return shelf.becomes(making)(made);
  });
  await rideDemo(store, passes, id);
  markDemoMade(dataFolder);
  rmSync(join(dataFolder, HALF_MADE), { force: true });
  const sec = (performance.now() - began) / 1000;
  options.say(`The demo song is ready: ${(bytes / 1e6).toFixed(0)} MB of audio in ${sec.toFixed(1)} s.`);
}

/** A demo that an earlier start was still riding as it ended is made anew. */
async function forgetHalfMade(lost: LostAndFound, dataFolder: string): Promise<void> {
  const note = join(dataFolder, HALF_MADE);
  if (!existsSync(note)) return;
  await lost.forget(Number(readFileSync(note, 'utf8')));
  rmSync(note, { force: true });
}

/** Rides the passes that the demo comes with, by the recorder, as a person would have: they stand in its log. */
async function rideDemo(store: SongStore, passes: PassLog, id: number): Promise<void> {
  const keep = async (edit: Edit): Promise<void> => {
    const { revision } = await store.get(id);
    const kept = await store.edit(id, revision, edit);
    if (!kept.stale && kept.passNumber !== null) number = kept.passNumber;
  };
  let number = 0;
  for (const edit of solvedNotes((await store.get(id)).song)) await keep(edit);
  const recorder = new PassRecorder((await store.get(id)).song);
  for (const { name, note, moves } of demoPasses(recorder.song)) {
    for (const event of moves) for (const edit of recorder.handle(event).edits) await keep(edit);
    await passes.describe(id, number, { name, note: note || null });
  }
  for (const edit of demoStates(recorder.song)) await keep(edit);
}
