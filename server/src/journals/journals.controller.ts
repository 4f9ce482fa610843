import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Put,
  UnprocessableEntityException,
} from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsArray, IsInt, IsNumber, IsObject, Min } from 'class-validator';
import { readPieceOfPass } from '@sure-hand/core/formats';
import { SongStore } from '../songs/songStore.js';
import { JournalLog, type OpenJournal } from './journalLog.js';
import { LeftOut } from '../security/leftOut.js';

/** A piece of an open pass. */
class JournalPieceDto {
  @ApiProperty({ description: 'Which piece of the journal this is, from 0' })
  @IsInt()
  @Min(0)
  seq!: number;

  @ApiProperty({
    description: 'How modes, guards and settings stood as the pass began; with the first piece',
    required: false,
  })
  @LeftOut()
  @IsObject()
  began?: object;

  @ApiProperty({ description: 'What hands did since the piece before', type: [Object] })
  @IsArray()
  events!: object[];

  @ApiProperty({ description: 'How far the pass is, in seconds' })
  @IsNumber()
  @Min(0)
  at!: number;
}

@ApiTags('journals')
@Controller('api/songs/:id/journals')
export class JournalsController {
  constructor(
    private readonly log: JournalLog,
    private readonly store: SongStore,
  ) {}

  @Get()
  @ApiOperation({ summary: 'Passes that were cut short: their tabs are gone, they were not kept' })
  left(@Param('id', ParseIntPipe) id: number): Promise<OpenJournal[]> {
    return this.log.left(id);
  }

  @Put(':key')
  @HttpCode(204)
  @ApiOperation({ summary: 'Write a piece of an open pass' })
  async write(
    @Param('id', ParseIntPipe) id: number,
    @Param('key') key: string,
    @Body() piece: JournalPieceDto,
  ): Promise<void> {
    await this.store.get(id);
    const read = readPieceOfPass(piece);
    if (!read.ok) throw new UnprocessableEntityException(read.sentence);
    return this.log.write(id, key, { ...read.value, seq: piece.seq, at: piece.at });
  }

  @Delete(':key')
  @HttpCode(204)
  @ApiOperation({ summary: 'Drop a journal' })
  drop(@Param('key') key: string): Promise<void> {
    return this.log.drop(key);
  }
}
