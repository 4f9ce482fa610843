import {
  Body,
  ConflictException,
  Controller,
  Get,
  HttpCode,
  NotFoundException,
  Param,
  ParseIntPipe,
  Post,
  UnprocessableEntityException,
} from '@nestjs/common';
import { ApiBody, ApiOperation, ApiTags } from '@nestjs/swagger';
import { readEdit } from '@sure-hand/core/formats';
import { fullName, type Edit, type Refusal, type Song } from '@sure-hand/core/song';
import { AudioShelf, type ShelvedFile } from '../audio/audioShelf.js';
import type { History } from './keptSong.js';
import { PassLog, type LoggedLane, type LoggedPass } from './passLog.js';
import { EditDto, EditPipe, RevisionDto } from './songs.dto.js';
import { SongStore, type Kept, type Stale } from './songStore.js';

/** A song in the list. */
export type ListedSong = {
  readonly id: number;
  readonly name: string;
  readonly length: number;
  readonly tracks: number;
  readonly passes: number;
  readonly changed: string;
};

/** One song whole. `files`: what is known of each audio file, or the sentence why it is not there. */
export type WholeSong = {
  readonly id: number;
  readonly revision: number;
  readonly song: Song;
  readonly history: History;
  readonly lastPass: number;
  readonly files: { readonly [name: string]: ShelvedFile };
};

/** What an accepted edit, undo or redo is answered with. */
export type KeptAnswer = {
  readonly revision: number;
  readonly edit: Edit;
  readonly refused: readonly Refusal[];
  readonly history: History;
  readonly passNumber: number | null;
};

const REASON: Partial<Record<Refusal['reason'], string>> = { safe: 'safe', parked: 'parked' };

@ApiTags('songs')
@Controller('api/songs')
export class SongsController {
  constructor(
    private readonly store: SongStore,
    private readonly passes: PassLog,
    private readonly shelf: AudioShelf,
  ) {}

  @Get()
  @ApiOperation({ summary: 'Every song, the last changed first' })
  async list(): Promise<ListedSong[]> {
    const rows = await this.store.list();
    return Promise.all(
      rows.map(async (row) => {
        const { length, channels } = JSON.parse(row.document) as Song;
        return {
          id: row.id,
          name: row.name,
          length,
          tracks: channels.filter((channel) => channel.kind === 'track').length,
          passes: (await this.passes.list(row.id)).length,
          changed: (row.get('updatedAt') as Date).toISOString(),
        };
      }),
    );
  }

  @Get(':id')
  @ApiOperation({ summary: 'One song whole: its document, revision, history, and what is known of its audio files' })
  async one(@Param('id', ParseIntPipe) id: number): Promise<WholeSong> {
    const { revision, song } = await this.store.get(id);
    const names = new Set(song.channels.flatMap((channel) => channel.clips.map((clip) => clip.file)));
    const files = Object.fromEntries([...names].map((name) => [name, this.shelf.describe(id, name, song.sampleRate)]));
    const [last] = await this.passes.list(id);
    return { id, revision, song, history: await this.store.history(id), lastPass: last?.number ?? 0, files };
  }

  @Post(':id/edits')
  @ApiBody({ type: EditDto })
  @HttpCode(201)
  @ApiOperation({ summary: 'Apply an edit; 409 with what changed where another one came before it' })
  async edit(
    @Param('id', ParseIntPipe) id: number,
    @Body(EditPipe) { revision, edit }: Pick<EditDto, 'revision' | 'edit'>,
  ): Promise<KeptAnswer> {
    const { song } = await this.store.get(id);
    const read = readEdit(song, edit);
    if (!read.ok) throw new UnprocessableEntityException(read.sentence);
    return this.#answer(await this.store.edit(id, revision, read.value));
  }

  @Post(':id/undo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Take the last step back' })
  undo(@Param('id', ParseIntPipe) id: number, @Body() { revision }: RevisionDto): Promise<KeptAnswer> {
    return this.#step(id, revision, 'undo');
  }

  @Post(':id/redo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Do the last step taken back again' })
  redo(@Param('id', ParseIntPipe) id: number, @Body() { revision }: RevisionDto): Promise<KeptAnswer> {
    return this.#step(id, revision, 'redo');
  }

  @Get(':id/passes')
  @ApiOperation({ summary: 'Every pass that wrote something, newest first, with its receipt' })
  async passList(@Param('id', ParseIntPipe) id: number): Promise<LoggedPass[]> {
    await this.store.get(id);
    return this.passes.list(id);
  }

  @Get(':id/passes/:number')
  @ApiOperation({ summary: 'One pass with the old and the new curve of each lane it wrote' })
  async pass(
    @Param('id', ParseIntPipe) id: number,
    @Param('number', ParseIntPipe) number: number,
  ): Promise<LoggedPass & { lanes: LoggedLane[] }> {
    const pass = await this.passes.get(id, number);
    if (!pass) throw new NotFoundException(`This song has no pass ${number}.`);
    return pass;
  }

  async #step(id: number, revision: number, which: 'undo' | 'redo'): Promise<KeptAnswer> {
    const kept = await this.store.step(id, revision, which);
    if (!kept) throw new UnprocessableEntityException(`There is nothing to ${which}.`);
    if (!kept.stale && kept.revision === revision) {
      const { song } = await this.store.get(id);
      const lanes = kept.refused.map((r) => `${fullName(song, r.control)} is ${REASON[r.reason] ?? r.reason}`);
      throw new UnprocessableEntityException(
        `The ${which} would write what is guarded: ${lanes.join(', ')}. Nothing was changed.`,
      );
    }
    return this.#answer(kept);
  }

  #answer(kept: Kept | Stale): KeptAnswer {
    if (kept.stale) {
      const { revision, changes } = kept;
      throw new ConflictException({ sentence: 'The song has changed meanwhile.', revision, changes });
    }
    const { stale: _stale, ...answer } = kept;
    return answer;
  }
}
