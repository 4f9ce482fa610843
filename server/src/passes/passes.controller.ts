import {
  Body,
  Controller,
  Get,
  HttpCode,
  NotFoundException,
  Param,
  ParseIntPipe,
  Post,
  Put,
  Query,
  UnprocessableEntityException,
} from '@nestjs/common';
import { ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import { LOUDNESS_STEP_SEC } from '@sure-hand/audio-files';
import { songWith } from '@sure-hand/core/edits';
import { packed } from '@sure-hand/core/formats';
import { unknownControl } from '@sure-hand/core/song';
import { AudioShelf } from '../audio/audioShelf.js';
import { JobBoard, type Job } from '../jobs/jobBoard.js';
import { WorkPool } from '../jobs/workPool.js';
import { OneText } from '../security/oneText.js';
import { SongStore } from '../songs/songStore.js';
import { LoudnessDto, OriginDto, PassWordsDto, PruneDto } from './passes.dto.js';
import { Origins, type Origin } from './origins.js';
import { Pruning, type Pruned } from './pruning.js';
import { PassLog, type LoggedPass, type WholePass } from './passLog.js';

/** Short-term loudness of the mix with a pass's lanes as it found and as it left them, LUFS, from `from` on every `stepSec`. */
export type PassLoudness = {
  readonly number: number;
  readonly from: number;
  readonly stepSec: number;
  readonly before: readonly number[];
  readonly after: readonly number[];
};

/** Of so many passes the curves of a lane are told at one time. */
const MOST_VERSIONS = 200;

@ApiTags('passes')
@Controller('api/songs/:id')
export class PassesController {
  constructor(
    private readonly store: SongStore,
    private readonly passes: PassLog,
    private readonly origins: Origins,
    private readonly pruning: Pruning,
    private readonly shelf: AudioShelf,
    private readonly jobs: JobBoard,
    private readonly pool: WorkPool,
  ) {}

  @Get('passes')
  @ApiOperation({ summary: 'Every pass that wrote something, newest first, with its receipt' })
  async list(@Param('id', ParseIntPipe) id: number): Promise<LoggedPass[]> {
    await this.store.get(id);
    return this.passes.list(id);
  }

  @Get('lane-passes')
  @ApiOperation({ summary: 'The passes that changed one lane, newest first, with its curves: the last 200, or fewer' })
  @ApiQuery({ name: 'control', type: String })
  @ApiQuery({ name: 'most', type: Number, required: false })
  ofLane(
    @Param('id', ParseIntPipe) id: number,
    @Query('control', OneText) control: string | undefined,
    @Query('most', new ParseIntPipe({ optional: true })) most = MOST_VERSIONS,
  ): Promise<WholePass[]> {
    return this.passes.ofLane(id, control ?? '', Math.min(Math.max(1, most), MOST_VERSIONS));
  }

  @Get('origin')
  @ApiOperation({
    summary: 'What wrote a layer of a lane at a time last, and what stood before it; null where nothing did',
  })
  async origin(
    @Param('id', ParseIntPipe) id: number,
    @Query() { control, layer, t }: OriginDto,
  ): Promise<{ origin: Origin | null }> {
    const { song } = await this.store.get(id);
    const wrong = unknownControl(song, control);
    if (wrong) throw new UnprocessableEntityException(wrong);
    return { origin: await this.origins.of(id, song, { control, layer, t }) };
  }

  @Get('prune')
  @ApiOperation({ summary: 'What pruning the log would take away: all but the last entries, and those with a name' })
  async forecast(@Param('id', ParseIntPipe) id: number, @Query() { keep }: PruneDto): Promise<Pruned> {
    await this.store.get(id);
    return this.pruning.forecast(id, keep);
  }

  @Post('prune')
  @HttpCode(200)
  @ApiOperation({
    summary: 'Prune the log: old versions that have no name go for good, and with them what undo there was before',
  })
  async prune(@Param('id', ParseIntPipe) id: number, @Body() { keep }: PruneDto): Promise<Pruned> {
    await this.store.get(id);
    return this.store.shortenLog(id, () => this.pruning.prune(id, keep));
  }

  @Get('passes/:number')
  @ApiOperation({ summary: 'One pass with the old and the new curve of each layer it changed' })
  async one(@Param('id', ParseIntPipe) id: number, @Param('number', ParseIntPipe) number: number): Promise<WholePass> {
    return this.#find(id, number);
  }

  @Put('passes/:number')
  @HttpCode(204)
  @ApiOperation({ summary: 'Name a pass, or note something on it' })
  async describe(
    @Param('id', ParseIntPipe) id: number,
    @Param('number', ParseIntPipe) number: number,
    @Body() { name, note }: PassWordsDto,
  ): Promise<void> {
    const words = {
      ...(name === undefined ? {} : { name: name.trim() || null }),
      ...(note === undefined ? {} : { note: note.trim() || null }),
    };
    if (!(await this.passes.describe(id, number, words)))
      throw new NotFoundException(`This song has no pass ${number}.`);
    const { revision } = await this.store.get(id);
    this.store.changed.next({ songId: id, revision });
  }

  @Post('passes/:number/loudness')
  @ApiOperation({ summary: 'Short-term loudness of the mix before and after a pass: a job, its result the values' })
  async loudness(
    @Param('id', ParseIntPipe) id: number,
    @Param('number', ParseIntPipe) number: number,
    @Body() { range }: LoudnessDto,
  ): Promise<Job> {
    const { song } = await this.store.get(id);
    const { lanes } = await this.#find(id, number);
    const [from, to] = range;
    if (!(from >= 0 && to > from && to <= song.length + 1e-6))
      throw new UnprocessableEntityException(
        `From ${from} s to ${to} s is no range of the song; it is ${song.length} s long.`,
      );
    const task = {
      songs: packed([songWith(song, lanes, 'before'), songWith(song, lanes, 'after')]),
      folder: this.shelf.folder(id),
      range,
    };
    return this.jobs.begin({ kind: 'loudness', name: `the loudness of pass ${number}`, songId: id }, async (work) => {
      const [before, after] = await this.pool.run<[number[], number[]]>('loudnessWorker', task, work);
      return { result: { number, from, stepSec: LOUDNESS_STEP_SEC, before, after } satisfies PassLoudness };
    });
  }

  async #find(id: number, number: number): Promise<WholePass> {
    const pass = await this.passes.get(id, number);
    if (!pass) throw new NotFoundException(`This song has no pass ${number}.`);
    return pass;
  }
}
