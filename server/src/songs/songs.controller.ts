import {
  Body,
  ConflictException,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Post,
  Query,
  UnprocessableEntityException,
} from '@nestjs/common';
import { ApiBody, ApiOperation, ApiTags } from '@nestjs/swagger';
import { type Edit } from '@sure-hand/core/edits';
import { fullName, type Refusal, type Song } from '@sure-hand/core/song';
import { AudioShelf, type ShelvedFile } from '../audio/audioShelf.js';
import type { History } from './keptSong.js';
import { PassLog } from '../passes/passLog.js';
import { EditDto, EditPipe, KeysDto, StepDto } from './songs.dto.js';
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
  /** Not there where the sender has it: see `isAsSent`. */
  readonly edit?: Edit | null;
  /** The edit was kept as it was sent, and its sender asked not to be given it back. */
  readonly isAsSent?: true;
  readonly refused: readonly Refusal[];
  readonly history: History;
  readonly passNumber: number | null;
  /** It was kept before: the song has it already. */
  readonly isKnown?: true;
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
          passes: (await this.passes.list(row.id)).filter(({ entry }) => entry === null).length,
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
    return { id, revision, song, history: await this.store.history(id), lastPass: await this.passes.last(id), files };
  }

  @Post(':id/edits')
  @ApiBody({ type: EditDto })
  @HttpCode(201)
  @ApiOperation({ summary: 'Apply an edit; 409 with what changed where another one came before it' })
  async edit(
    @Param('id', ParseIntPipe) id: number,
    // Of no class that the usual pipe knows: it would copy the edit point by point before this one checks it.
    @Body(EditPipe) body: unknown,
  ): Promise<KeptAnswer> {
    const { revision, edit, key, brief } = body as EditDto;
    const answer = this.#answer(await this.store.edit(id, revision, edit, key ?? null));
    if (!brief || answer.edit !== edit) return answer;
    const { edit: _sent, ...rest } = answer;
    return { ...rest, isAsSent: true };
  }

  @Get(':id/revision')
  @ApiOperation({ summary: 'The revision that the next edit must be made on' })
  async revision(@Param('id', ParseIntPipe) id: number): Promise<{ revision: number }> {
    return { revision: (await this.store.get(id)).revision };
  }

  @Get(':id/changes')
  @ApiOperation({ summary: 'What a song has become since a revision' })
  changes(@Param('id', ParseIntPipe) id: number, @Query('since', ParseIntPipe) since: number): Promise<Stale> {
    return this.store.changesSince(id, since);
  }

  @Post(':id/kept')
  @HttpCode(200)
  @ApiOperation({ summary: 'Which edits, by their senders’ keys, are kept already' })
  async kept(@Param('id', ParseIntPipe) id: number, @Body() { keys }: KeysDto): Promise<{ keys: string[] }> {
    return { keys: await this.store.knownKeys(id, keys) };
  }

  @Post(':id/duplicate')
  @ApiOperation({ summary: 'Make a song of its own of a copy, with its audio and its log of passes' })
  async duplicate(@Param('id', ParseIntPipe) id: number): Promise<{ id: number }> {
    const making = this.shelf.beginFolder();
    try {
      this.shelf.copy(id, making);
      return { id: await this.store.duplicate(id, this.shelf.becomes(making)) };
    } catch (error) {
      this.shelf.forget(making);
      throw error;
    }
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Take a song out of the list; it can be put back for a week' })
  remove(@Param('id', ParseIntPipe) id: number): Promise<void> {
    return this.store.setRemoved(id, true);
  }

  @Post(':id/restore')
  @HttpCode(204)
  @ApiOperation({ summary: 'Put a removed song back into the list' })
  restore(@Param('id', ParseIntPipe) id: number): Promise<void> {
    return this.store.setRemoved(id, false);
  }

  @Post(':id/undo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Take the last step back' })
  undo(@Param('id', ParseIntPipe) id: number, @Body() asked: StepDto): Promise<KeptAnswer> {
    return this.#step(id, asked, 'undo');
  }

  @Post(':id/redo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Do the last step taken back again' })
  redo(@Param('id', ParseIntPipe) id: number, @Body() asked: StepDto): Promise<KeptAnswer> {
    return this.#step(id, asked, 'redo');
  }

  async #step(id: number, { revision, step }: StepDto, which: 'undo' | 'redo'): Promise<KeptAnswer> {
    const kept = await this.store.step(id, revision, which, step ?? null);
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
      const { stale: _stale, ...changes } = kept;
      throw new ConflictException({ sentence: 'The song has changed meanwhile.', ...changes });
    }
    const { stale: _stale, ...answer } = kept;
    return answer;
  }
}
