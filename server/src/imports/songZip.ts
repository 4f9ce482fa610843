import { createWriteStream, existsSync, mkdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { UnprocessableEntityException } from '@nestjs/common';
import { isPlainFileName, type Song } from '@sure-hand/core/song';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import { isAudioName } from '../audio/audioShelf.js';
import { JobTrouble, type Work } from '../jobs/jobBoard.js';
import type { Intake } from './stemIntake.js';

/** The document's name within a zip. */
const DOCUMENT_NAME = 'song.json';
/** What a zip may come to once unpacked: its own claims are not believed, bytes are counted as they come. */
const LIMITS = { entries: 2000, documentBytes: 256e6, audioBytes: 64e9 } as const;
/** The most that a zip may have which is to be opened: as much as one that is saved, and what is around it. */
export const MOST_ZIP_BYTES = LIMITS.audioBytes + LIMITS.documentBytes + 1e6;

/** A song as it came in a zip: its document, and where the files that it names were unpacked to. */
export type UnpackedSong = {
  readonly song: Song;
  readonly files: readonly Intake[];
  readonly missing: readonly string[];
};

/** How a song is unpacked: told how far it is, and with its document read where it holds nobody up. */
export type Unpacking = { readonly work: Work; readonly readDocument: (path: string) => Promise<Song> };

/**
 * Unpacks a song into a folder: its document and the audio files which that names, nothing else. A name in the zip is only
 * compared, never used as a path; absolute names and names that climb out of the folder are refused.
 */
export async function unpackSong(path: string, folder: string, how: Unpacking): Promise<UnpackedSong> {
  const { work } = how;
  const options = { lazyEntries: true, autoClose: false, validateEntrySizes: true, strictFileNames: true } as const;
  const zip = await yauzl.openPromise(path, options).catch((error: Error) => {
    throw new JobTrouble(`This is no zip file that can be read, or it is cut short (${error.message}).`);
  });
  try {
    return await unpack(zip, folder, how);
  } catch (error) {
    if (error instanceof JobTrouble || work.signal.aborted) throw error;
    throw new JobTrouble(`The zip can’t be read: ${(error as Error).message}.`);
  } finally {
    zip.close();
  }
}

async function unpack(zip: ZipFile, folder: string, { work, readDocument }: Unpacking): Promise<UnpackedSong> {
  const { report, signal } = work;
  const entries = await entriesOf(zip);
  const document = entries.get(DOCUMENT_NAME);
  if (!document) throw new JobTrouble(`The zip holds no ${DOCUMENT_NAME}, so it is no song of this program.`);
  mkdirSync(folder, { recursive: true });
  const documentPath = join(folder, DOCUMENT_NAME);
  const documentBytes = counted({ bytes: LIMITS.documentBytes }, 'The zip’s document');
  await pipeline(await zip.openReadStreamPromise(document), documentBytes, createWriteStream(documentPath), { signal });
  const song = await readDocument(documentPath);
  const wanted = [...new Set(song.channels.flatMap((channel) => channel.clips.map((clip) => clip.file)))];
  const odd = wanted.find((name) => !isAudioName(name) || !isPlainFileName(name));
  if (odd) throw new JobTrouble(`The song names the audio file “${odd}”, which is no plain name beside it.`);
  const files: Intake[] = [];
  const audioBytes = counted({ bytes: LIMITS.audioBytes }, 'The zip');
  for (const [i, name] of wanted.entries()) {
    const entry = entries.get(name);
    if (!entry) continue;
    const to = join(folder, String(i));
    report(i / wanted.length, `Unpacking ${name}`);
    await pipeline(await zip.openReadStreamPromise(entry), audioBytes, createWriteStream(to), { signal });
    files.push({ name, path: to, file: name });
  }
  return { song, files, missing: wanted.filter((name) => !files.some((file) => file.name === name)) };
}

/** Every file in the zip by its name; throws where it is a zip that nobody should open. */
async function entriesOf(zip: ZipFile): Promise<Map<string, Entry>> {
  const entries = new Map<string, Entry>();
  for await (const entry of zip.eachEntry()) {
    if (entry.fileName.endsWith('/')) continue;
    if (entries.size >= LIMITS.entries) throw new JobTrouble(`The zip holds more than ${LIMITS.entries} files.`);
    if (entries.has(entry.fileName)) throw new JobTrouble(`The zip holds “${entry.fileName}” twice.`);
    entries.set(entry.fileName, entry);
  }
  return entries;
}

/** Lets so many bytes through and no more, whatever the zip had promised. */
const counted = (allowance: { bytes: number }, what: string) => {
  const most = allowance.bytes;
  return async function* (chunks: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
    for await (const chunk of chunks) {
      allowance.bytes -= chunk.length;
      if (allowance.bytes < 0) throw new JobTrouble(`${what} unpacks to more than ${most / 1e9} GB.`);
      yield chunk;
    }
  };
};

/** What of a song goes into a zip. Throws a sentence where it is more than could be opened again. */
function partsOf(
  song: Song,
  pathOf: (file: string) => string,
): { document: Buffer; files: [name: string, path: string][] } {
  const document = Buffer.from(JSON.stringify(song, null, 1));
  const files = [...new Set(song.channels.flatMap((channel) => channel.clips.map((clip) => clip.file)))]
    .filter(isAudioName)
    .map((file): [string, string] => [file, pathOf(file)])
    .filter(([, path]) => existsSync(path));
  const bytes = files.reduce((sum, [, path]) => sum + statSync(path).size, 0);
  const too =
    bytes > LIMITS.audioBytes
      ? `its audio is ${(bytes / 1e9).toFixed(1)} GB, and ${LIMITS.audioBytes / 1e9} GB`
      : document.length > LIMITS.documentBytes
        ? `its document is ${(document.length / 1e6).toFixed(0)} MB, and ${LIMITS.documentBytes / 1e6} MB`
        : files.length >= LIMITS.entries
          ? `it has ${files.length} audio files, and ${LIMITS.entries - 1}`
          : null;
  if (too)
    throw new UnprocessableEntityException(
      `${song.name} is too large for one zip: ${too} are the most that can be opened again. A backup of the data folder holds it whole (sure-hand backup).`,
    );
  return { document, files };
}

/** Packs a song as it stands, its document and its audio, into a zip that goes out as it is made. */
export async function packSong(song: Song, pathOf: (file: string) => string): Promise<Readable> {
  const { document, files } = partsOf(song, pathOf);
  // Only now: it takes long to come, and a server starts more often than a song goes out.
  const { ZipArchive } = await import('archiver');
  // Audio hardly packs, and a song is large: it is only put together.
  const zip = new ZipArchive({ store: true });
  zip.append(document, { name: DOCUMENT_NAME });
  for (const [name, path] of files) zip.file(path, { name });
  void zip.finalize();
  return zip;
}
