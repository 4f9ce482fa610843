import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { JobBoard, type Job } from '../jobs/jobBoard.js';
import { SongStore } from '../songs/songStore.js';
import { BounceDto } from './bounces.dto.js';
import { BounceShelf, type ListedBounce } from './bounceShelf.js';

@ApiTags('bounces')
@Controller('api/songs/:id/bounces')
export class BouncesController {
  constructor(
    private readonly bounces: BounceShelf,
    private readonly store: SongStore,
    private readonly jobs: JobBoard,
  ) {}

  @Get()
  @ApiOperation({ summary: 'What was bounced, newest first, with its loudness' })
  list(@Param('id', ParseIntPipe) id: number): Promise<ListedBounce[]> {
    return this.bounces.list(id);
  }

  @Post()
  @ApiOperation({ summary: 'Bounce the mix, or stems: a job' })
  async begin(@Param('id', ParseIntPipe) id: number, @Body() asked: BounceDto): Promise<Job> {
    const { song } = await this.store.get(id);
    this.bounces.check(song, asked);
    const name = asked.stems ? `${asked.stems.length} stems of ${song.name}` : `Mix of ${song.name}`;
    return this.jobs.begin({ kind: 'bounce', name, songId: id }, (work) => this.bounces.make(id, song, asked, work));
  }

  @Get(':bounce/file')
  @ApiOperation({ summary: 'The file' })
  async file(
    @Param('id', ParseIntPipe) id: number,
    @Param('bounce', ParseIntPipe) bounce: number,
    @Res() response: Response,
  ): Promise<void> {
    const { path, file } = await this.bounces.find(id, bounce);
    response.download(path, file, { headers: { 'Content-Type': 'audio/wav' } });
  }

  @Delete(':bounce')
  @HttpCode(204)
  @ApiOperation({ summary: 'Delete a bounce and its file' })
  remove(@Param('id', ParseIntPipe) id: number, @Param('bounce', ParseIntPipe) bounce: number): Promise<void> {
    return this.bounces.remove(id, bounce);
  }
}
