import { Body, Controller, Delete, Get, HttpCode, Param, ParseIntPipe, Put } from '@nestjs/common';
import { ApiOperation, ApiProperty, ApiTags } from '@nestjs/swagger';
import { IsArray, IsInt, IsNumber, IsObject, IsOptional, Min } from 'class-validator';
import { JournalLog, type JournalPiece, type OpenJournal } from './journalLog.js';

/** A piece of an open pass. */
export class JournalPieceDto {
  @ApiProperty({ description: 'Which piece of the journal this is, from 0' })
  @IsInt()
  @Min(0)
  seq!: number;

  @ApiProperty({
    description: 'How modes, guards and settings stood as the pass began; with the first piece',
    required: false,
  })
  @IsOptional()
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
  constructor(private readonly log: JournalLog) {}

  @Get()
  @ApiOperation({ summary: 'Passes that were cut short: their tabs are gone, they were not kept' })
  left(@Param('id', ParseIntPipe) id: number): Promise<OpenJournal[]> {
    return this.log.left(id);
  }

  @Put(':key')
  @HttpCode(204)
  @ApiOperation({ summary: 'Write a piece of an open pass' })
  write(
    @Param('id', ParseIntPipe) id: number,
    @Param('key') key: string,
    @Body() piece: JournalPieceDto,
  ): Promise<void> {
    return this.log.write(id, key, piece as JournalPiece);
  }

  @Delete(':key')
  @HttpCode(204)
  @ApiOperation({ summary: 'Drop a journal' })
  drop(@Param('key') key: string): Promise<void> {
    return this.log.drop(key);
  }
}
