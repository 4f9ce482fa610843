import { closeSync, existsSync, mkdirSync, openSync, readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import type { Bounced } from '@sure-hand/audio-files';
import { packed } from '@sure-hand/core/formats';
import type { LoudnessReport } from '@sure-hand/core/loudness';
import type { StemOf } from '@sure-hand/core/mix';
import { carriesAudio, channelOf, plainFileName, type Song } from '@sure-hand/core/song';
import { AudioShelf } from '../audio/audioShelf.js';
import { BounceRow } from '../database/models.js';
import { OneWriter } from '../database/oneWriter.js';
import { JobTrouble, type Work, type WorkDone } from '../jobs/jobBoard.js';
import { WorkPool } from '../jobs/workPool.js';
import type { BounceBits, BounceDto } from './bounces.dto.js';
import type { Measured } from './measureWorker.js';

/** A bounce that was made. */
export type ListedBounce = {
  readonly id: number;
  readonly name: string;
  readonly file: string;
  readonly bits: string;
  readonly seconds: number;
  readonly bytes: number;
  readonly at: string;
  readonly loudness: LoudnessReport;
};

const FORMATS = { '16': 'int16', '24': 'int24', '32f': 'float32' } as const;
const BITS = { int16: '16', int24: '24', int32: '32', float32: '32f' } as const;
const listed = (row: BounceRow): ListedBounce => ({
  id: row.id,
  name: row.name,
  file: row.file,
  bits: row.format,
  seconds: row.seconds,
  bytes: row.bytes,
  at: (row.get('createdAt') as Date).toISOString(),
  loudness: JSON.parse(row.loudness) as LoudnessReport,
});

/** What was bounced of each song: the files beside its audio, and what they measure. */
@Injectable()
export class BounceShelf {
  constructor(
    @InjectModel(BounceRow) private readonly rows: typeof BounceRow,
    private readonly shelf: AudioShelf,
    private readonly pool: WorkPool,
    private readonly writer: OneWriter,
  ) {}

  async list(songId: number): Promise<ListedBounce[]> {
    return (await this.rows.findAll({ where: { songId }, order: [['id', 'DESC']] })).map(listed);
  }

  /** Throws a sentence where what is asked for is not there to be bounced. */
  check(song: Song, { range, stems }: BounceDto): void {
    if (range && !(range[0] >= 0 && range[1] > range[0] && range[1] <= song.length + 1e-6))
      throw new UnprocessableEntityException(
        `From ${range[0]} s to ${range[1]} s is no range of the song; it is ${song.length} s long.`,
      );
    for (const key of stems ?? []) {
      const channel = channelOf(song, key);
      if (!channel) throw new UnprocessableEntityException(`The song has no channel “${key}”.`);
      if (!carriesAudio(channel) || channel.kind === 'main')
        throw new UnprocessableEntityException(`${channel.name} has no sound of its own to bounce.`);
    }
    if (stems?.length === 0) throw new UnprocessableEntityException('Choose the channels that are to be bounced.');
  }

  /** Bounces the mix, or each stem after the other; what is done when it is given up stays. */
  async make(songId: number, song: Song, asked: BounceDto, { report, signal }: Work): Promise<WorkDone> {
    const { stems, throughMain = true } = asked;
    const parts: (StemOf | null)[] = stems ? stems.map((channel) => ({ channel, throughMain })) : [null];
    for (const [i, stem] of parts.entries()) {
      const name = stem ? `${song.name} – ${channelOf(song, stem.channel)!.name}` : `${song.name} – mix`;
      signal.throwIfAborted();
      const inPart = (share: number): void => report((i + share) / parts.length, name);
      await this.#makeOne(songId, { song, name, stem, asked }, { report: inPart, signal });
    }
    return { songId };
  }

  async #makeOne(
    songId: number,
    { song, name, stem, asked }: { song: Song; name: string; stem: StemOf | null; asked: BounceDto },
    work: Work,
  ): Promise<void> {
    const folder = this.#folder(songId);
    mkdirSync(folder, { recursive: true });
    const file = reserve(folder, name, asked.bits);
    const out = join(folder, file);
    const order = {
      song: packed(song),
      folder: this.shelf.folder(songId),
      out,
      format: FORMATS[asked.bits],
      range: asked.range ?? null,
      plan: { stem },
    };
    try {
      const { seconds, loudness } = await this.pool.run<Bounced>('bounceWorker', order, work);
      const row = { songId, name, file, format: asked.bits satisfies BounceBits, seconds };
      const found = { bytes: statSync(out).size, loudness: JSON.stringify(loudness) };
      await this.writer.write(() => this.rows.create({ ...row, ...found }));
    } catch (error) {
      for (const half of [out, `${out}.part`]) rmSync(half, { force: true });
      throw error;
    }
  }

  /** Where a bounce lies, and what it is called. */
  async find(songId: number, id: number): Promise<{ readonly path: string; readonly file: string }> {
    const row = await this.rows.findOne({ where: { songId, id } });
    const path = row && join(this.#folder(songId), row.file);
    if (!row || !path || !existsSync(path))
      throw new NotFoundException('This bounce is not there any more; make it again.');
    return { path, file: row.file };
  }

  /** Removes a bounce and its file, or what stands in the list of one whose file is gone. */
  async remove(songId: number, id: number): Promise<void> {
    const row = await this.rows.findOne({ where: { songId, id } });
    if (!row) throw new NotFoundException('This bounce is not there any more.');
    rmSync(join(this.#folder(songId), row.file), { force: true });
    await this.writer.write(() => this.rows.destroy({ where: { songId, id } }));
  }

  /** Takes bounces into the list that lie in a song's folder and stand in no list, as where a song was brought back: measured anew. */
  async adopt(songId: number, work: Work): Promise<void> {
    const folder = this.#folder(songId);
    if (!existsSync(folder)) return;
    const listed = new Set((await this.rows.findAll({ where: { songId } })).map((row) => row.file));
    for (const file of readdirSync(folder)) {
      if (listed.has(file) || !file.endsWith('.wav')) continue;
      const path = join(folder, file);
      const quiet = { ...work, report: () => undefined };
      const measured = await this.pool.run<Measured>('measureWorker', { path }, quiet).catch((error: Error) => {
        // One that is none any more is no bounce; the file stays where it is.
        if (error instanceof JobTrouble) return null;
        throw error;
      });
      if (!measured) continue;
      const { seconds, format, loudness } = measured;
      const row = {
        songId,
        name: file.replace(/ (16|24|32f)( \(\d+\))?\.wav$/, ''),
        file,
        format: BITS[format],
        seconds,
      };
      const found = { bytes: statSync(path).size, loudness: JSON.stringify(loudness) };
      await this.writer.write(() => this.rows.create({ ...row, ...found }));
    }
  }

  /** What an earlier run left half made is of no use. */
  clearHalfMade(): void {
    const songs = join(this.shelf.folder('.'));
    if (!existsSync(songs)) return;
    for (const song of readdirSync(songs)) {
      const folder = this.#folder(song);
      if (!existsSync(folder)) continue;
      for (const file of readdirSync(folder)) if (file.endsWith('.part')) rmSync(join(folder, file), { force: true });
    }
  }

  #folder(songId: number | string): string {
    return join(this.shelf.folder(songId), 'bounces');
  }
}

/** A name that no file there has, and none that is being made: what it is made in stands there from now on. */
function reserve(folder: string, name: string, bits: BounceBits): string {
  for (let n = 1; ; n++) {
    const file = plainFileName(name, ` ${bits}${n === 1 ? '' : ` (${n})`}.wav`);
    const part = join(folder, `${file}.part`);
    if (existsSync(join(folder, file)) || existsSync(part)) continue;
    closeSync(openSync(part, 'wx'));
    return file;
  }
}
