import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Post,
  Put,
  Query,
  Req,
  Res,
} from '@nestjs/common';
import { ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import type { Request, Response } from 'express';
import { AudioShelf } from '../audio/audioShelf.js';
import { JobBoard, type Job } from '../jobs/jobBoard.js';
import { SongStore } from '../songs/songStore.js';
import { OneText } from '../security/oneText.js';
import { MoreStemsDto, NewSongDto } from './imports.dto.js';
import { SongMaking } from './songMaking.js';
import { MOST_ZIP_BYTES, packSong } from './songZip.js';
import { StagedStems, receive, type StagedStem } from './stagedStems.js';

/** A file's name as it may stand in a header. */
const disposition = (name: string): string =>
  `attachment; filename="${name.replace(/[^\x20-\x7e]|["\\]/g, '_')}"; filename*=UTF-8''${encodeURIComponent(name.toWellFormed())}`;

@ApiTags('imports')
@Controller('api')
export class ImportsController {
  constructor(
    private readonly stems: StagedStems,
    private readonly making: SongMaking,
    private readonly jobs: JobBoard,
    private readonly store: SongStore,
    private readonly shelf: AudioShelf,
  ) {}

  @Post('imports')
  @ApiOperation({ summary: 'A place to put the stems of a new song' })
  begin(): { id: string } {
    return { id: this.stems.begin() };
  }

  @Put('imports/:id/stems')
  @ApiQuery({ name: 'name', type: String, required: false })
  @ApiOperation({ summary: 'One stem, its bytes as they are; answered with what it is, or why it cannot be used' })
  stem(
    @Param('id') id: string,
    @Query('name', OneText) name: string | undefined,
    @Req() request: Request,
  ): Promise<StagedStem> {
    return this.stems.take(id, name ?? 'stem.wav', request);
  }

  @Post('imports/:id/song')
  @ApiOperation({ summary: 'Make the song: a job that ends with its id' })
  song(@Param('id') id: string, @Body() asked: NewSongDto): Job {
    const stems = asked.tracks.map((track) => track.stem);
    const claimed = this.stems.claim(id, stems);
    return this.jobs.begin({ kind: 'import', name: asked.name }, async (work) => {
      try {
        const done = await this.making.fromStems(claimed, asked, work);
        claimed.used();
        return done;
      } catch (error) {
        claimed.giveBack();
        throw error;
      }
    });
  }

  @Post('imports/:id/into/:song')
  @ApiOperation({ summary: 'Take stems into a song that is there: a job that ends with the files they are now' })
  async into(
    @Param('id') id: string,
    @Param('song', ParseIntPipe) songId: number,
    @Body() asked: MoreStemsDto,
  ): Promise<Job> {
    const { song } = await this.store.get(songId);
    const claimed = this.stems.claim(
      id,
      asked.tracks.map((track) => track.stem),
    );
    return this.jobs.begin({ kind: 'stems', name: song.name, songId }, async (work) => {
      try {
        const done = await this.making.intoSong(claimed, { songId, sampleRate: song.sampleRate }, asked, work);
        claimed.used();
        return done;
      } catch (error) {
        claimed.giveBack();
        throw error;
      }
    });
  }

  @Delete('imports/:id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Give up a new song: its stems are thrown away' })
  drop(@Param('id') id: string): void {
    this.stems.drop(id);
  }

  @Post('songs/zip')
  @ApiQuery({ name: 'name', type: String, required: false })
  @ApiOperation({ summary: 'Open a song that was saved with its audio: the zip’s bytes; a job that ends with its id' })
  async open(@Query('name', OneText) name: string | undefined, @Req() request: Request): Promise<Job> {
    const folder = join(this.stems.root, randomUUID());
    mkdirSync(folder, { recursive: true });
    const path = join(folder, 'song.zip');
    try {
      await receive(request, path, name ?? 'The zip', MOST_ZIP_BYTES);
    } catch (error) {
      rmSync(folder, { recursive: true, force: true });
      throw error;
    }
    return this.jobs.begin({ kind: 'open', name: name ?? 'A song' }, (work) =>
      this.making
        .fromZip(path, join(folder, 'audio'), work)
        .finally(() => rmSync(folder, { recursive: true, force: true })),
    );
  }

  @Get('songs/:id/zip')
  @ApiOperation({ summary: 'The song as it stands, its document and its audio, as one zip' })
  async save(@Param('id', ParseIntPipe) id: number, @Res() response: Response): Promise<void> {
    const { song } = await this.store.get(id);
    const zip = await packSong(song, (file) => this.shelf.path(id, file));
    response.setHeader('Content-Type', 'application/zip');
    response.setHeader('Content-Disposition', disposition(`${song.name}.zip`));
    zip.on('error', (error) => response.destroy(error));
    response.on('close', () => zip.destroy());
    zip.pipe(response);
  }

  @Get('songs/:id/document')
  @ApiOperation({ summary: 'The song document alone' })
  async document(@Param('id', ParseIntPipe) id: number, @Res() response: Response): Promise<void> {
    const { song } = await this.store.get(id);
    response.setHeader('Content-Type', 'application/json');
    response.setHeader('Content-Disposition', disposition(`${song.name}.json`));
    response.send(JSON.stringify(song, null, 1));
  }
}
