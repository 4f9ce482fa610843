import { Controller, Get, Header, NotFoundException, Param, ParseIntPipe, Res, StreamableFile } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { basename } from 'node:path';
import { SongStore } from '../songs/songStore.js';
import { AudioShelf, isAudioName, isFile, type ShelvedFile } from './audioShelf.js';

@ApiTags('audio')
@Controller('api/songs/:id')
export class AudioController {
  constructor(
    private readonly shelf: AudioShelf,
    private readonly store: SongStore,
  ) {}

  @Get('audio/:file')
  @ApiOperation({ summary: 'An audio file, or the byte range of it that is asked for' })
  audio(@Param('id', ParseIntPipe) id: number, @Param('file') file: string, @Res() response: Response): void {
    const path = this.shelf.path(id, file);
    if (!isFile(path)) throw new NotFoundException(`The audio file ${file} is missing.`);
    response.sendFile(basename(path), {
      root: this.shelf.folder(id),
      acceptRanges: true,
      cacheControl: false,
      headers: { 'Content-Type': 'audio/wav', 'Cache-Control': 'no-store' },
    });
  }

  @Get('files/:file')
  @ApiOperation({ summary: 'What is known of an audio file of the song, or why it cannot be played' })
  async file(@Param('id', ParseIntPipe) id: number, @Param('file') file: string): Promise<ShelvedFile> {
    const { song } = await this.store.get(id);
    if (!isAudioName(file)) throw new NotFoundException(`“${file}” is no audio file of this song.`);
    return this.shelf.describe(id, file, song.sampleRate);
  }

  @Get('peaks/:file')
  @Header('Cache-Control', 'no-cache')
  @ApiOperation({ summary: 'The peaks of an audio file, for drawing its waveform' })
  async peaks(@Param('id', ParseIntPipe) id: number, @Param('file') file: string): Promise<StreamableFile> {
    return new StreamableFile(await this.shelf.peaks(id, file), { type: 'application/octet-stream' });
  }
}
