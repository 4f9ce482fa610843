import { UnprocessableEntityException, Controller, Delete, Get, HttpCode, Param, Post } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { BounceShelf } from '../bounces/bounceShelf.js';
import { SongMaking } from '../imports/songMaking.js';
import { JobBoard, type Job } from '../jobs/jobBoard.js';
import { LostAndFound, type LostSong } from './lostAndFound.js';

@ApiTags('lost')
@Controller('api/lost')
export class LostController {
  /** Folders that a song is being made of: nobody deletes them, and no second song is made. */
  readonly #inHand = new Set<string>();

  constructor(
    private readonly lost: LostAndFound,
    private readonly making: SongMaking,
    private readonly bounces: BounceShelf,
    private readonly jobs: JobBoard,
  ) {}

  @Get()
  @ApiOperation({ summary: 'Folders of audio that belong to no song in the database' })
  list(): LostSong[] {
    return this.lost.list();
  }

  @Post(':folder/song')
  @ApiOperation({ summary: 'Make a song of a lost folder again: a job that ends with its id' })
  bringBack(@Param('folder') folder: string): Job {
    const path = this.lost.path(folder);
    this.#refuseInHand(folder);
    this.#inHand.add(folder);
    const name = this.lost.list().find((one) => one.folder === folder)?.name ?? folder;
    return this.jobs.begin({ kind: 'open', name }, async (work) => {
      try {
        const done = await this.making.fromFolder(path, name, work);
        await this.bounces.adopt(done.songId!, work);
        // Of a folder without a document not all may have become the song's.
        if (this.lost.hasDocument(folder)) this.lost.forgetLost(folder);
        return done;
      } finally {
        this.#inHand.delete(folder);
      }
    });
  }

  @Delete(':folder')
  @HttpCode(204)
  @ApiOperation({ summary: 'Delete a lost folder for good' })
  remove(@Param('folder') folder: string): void {
    this.#refuseInHand(folder);
    this.lost.forgetLost(folder);
  }

  #refuseInHand(folder: string): void {
    if (this.#inHand.has(folder)) throw new UnprocessableEntityException('A song is being made of this already.');
  }
}
