import { existsSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readSong } from '@sure-hand/core/formats';
import { makeSong, type DemoName, type Progress } from '@sure-hand/demo-song';
import type { AudioShelf } from './audio/audioShelf.js';
import type { SongStore } from './songs/songStore.js';

/** Says that the demo was made once: a demo that its owner removed does not come back. */
const MARK = 'demo-made';

/** Makes the demo song on a first start, saying how far it is; does nothing on later ones. */
export async function ensureDemo(
  store: SongStore,
  shelf: AudioShelf,
  dataFolder: string,
  options: { readonly name: DemoName; readonly say: (sentence: string) => void },
): Promise<void> {
  const mark = join(dataFolder, MARK);
  if (existsSync(mark)) return;
  const began = performance.now();
  const making = join(dataFolder, 'demo-in-the-making');
  rmSync(making, { recursive: true, force: true });
  mkdirSync(making, { recursive: true });
  options.say('Making the demo song. This happens once.');
  let bytes = 0;
  const onProgress = ({ done, of, what, bytes: now }: Progress): void => {
    bytes = now;
    options.say(`  ${done} of ${of}: ${what}`);
  };
  const read = readSong(await makeSong(options.name, { folder: making, onProgress }));
  if (!read.ok) throw new Error(read.sentence);
  const id = await store.create(read.value);
  mkdirSync(join(dataFolder, 'songs'), { recursive: true });
  rmSync(shelf.folder(id), { recursive: true, force: true });
  renameSync(making, shelf.folder(id));
  writeFileSync(mark, '');
  const sec = (performance.now() - began) / 1000;
  options.say(`The demo song is ready: ${(bytes / 1e6).toFixed(0)} MB of audio in ${sec.toFixed(1)} s.`);
}
