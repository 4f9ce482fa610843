import { existsSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { withWav } from '@sure-hand/audio-files';
import { readSong } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { DemoName } from '../makeSong.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '../../..');
const built = join(root, 'demo-song/dist/index.js');

/** When any part of the synthesiser was built last: what builds it writes only what is other. */
const builtAt = (): number =>
  Math.max(
    ...readdirSync(dirname(built), { recursive: true, withFileTypes: true })
      .filter((one) => one.isFile() && one.name.endsWith('.js'))
      .map((one) => statSync(join(one.parentPath, one.name)).mtimeMs),
  );

/** A song made by the built synthesiser, in worker threads as on a first start; kept until the synthesiser changes. */
export async function madeSong(name: DemoName): Promise<{ readonly song: Song; readonly folder: string }> {
  const folder = join(root, '.tmp', name);
  const document = join(folder, 'song.json');
  if (!existsSync(document) || statSync(document).mtimeMs < builtAt()) {
    const { makeSong } = (await import(built)) as typeof import('../makeSong.js');
    const made = await makeSong(name, { folder });
    writeFileSync(document, JSON.stringify(made));
  }
  const read = readSong(JSON.parse(readFileSync(document, 'utf8')));
  if (!read.ok) throw new Error(read.sentence);
  return { song: read.value, folder };
}

/** A track's audio laid out over the song's time, one column a side, from its clips. */
export function trackAudio(song: Song, folder: string, key: string): Float32Array[] {
  const channel = song.channels.find((c) => c.key === key)!;
  const file = withWav(join(folder, channel.clips[0]!.file), (wav) => {
    const columns = wav.columns(wav.info.frames);
    wav.read(0, columns);
    return columns;
  });
  const frames = (sec: number): number => Math.round(sec * song.sampleRate);
  return file.map((column) => {
    const out = new Float32Array(frames(song.length));
    for (const clip of channel.clips)
      out.set(column.subarray(frames(clip.offset), frames(clip.offset) + frames(clip.length)), frames(clip.t));
    return out;
  });
}
