import { ApiProperty } from '@nestjs/swagger';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Length,
  Max,
  MaxLength,
  Min,
  ValidateNested,
} from 'class-validator';
import { UPLOAD_LIMITS } from './stagedStems.js';
import { LeftOut } from '../security/leftOut.js';

/** A stem of a new song, with the name and family it is to have. */
class TrackDto {
  @ApiProperty({ description: 'The stem, as its upload was answered' })
  @IsString()
  @MaxLength(64)
  stem!: string;

  @ApiProperty()
  @Length(1, 200)
  name!: string;

  @ApiProperty()
  @IsString()
  @MaxLength(200)
  family!: string;
}

class SectionDto {
  @ApiProperty({ description: 'Where it begins, in seconds' })
  @IsNumber()
  @Min(0)
  t!: number;

  @ApiProperty()
  @Length(1, 200)
  name!: string;
}

/** Stems for a song that is there already, or for a new one: each becomes a file of it, and a track. */
export class MoreStemsDto {
  @ApiProperty({ type: [TrackDto] })
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(UPLOAD_LIMITS.files)
  @ValidateNested({ each: true })
  @Type(() => TrackDto)
  tracks!: TrackDto[];
}

/** A new song: its tracks in their order, and the beat it goes by. */
export class NewSongDto extends MoreStemsDto {
  @ApiProperty()
  @Length(1, 200)
  name!: string;

  @ApiProperty({ example: 48000 })
  @IsInt()
  @Min(8000)
  @Max(384000)
  sampleRate!: number;

  @ApiProperty({ example: 120 })
  @IsNumber()
  @Min(10)
  @Max(999)
  bpm!: number;

  @ApiProperty({ example: 4 })
  @IsInt()
  @Min(1)
  @Max(64)
  beats!: number;

  @ApiProperty({ example: 4 })
  @IsIn([1, 2, 4, 8, 16, 32])
  unit!: number;

  @ApiProperty({ type: [SectionDto], required: false })
  @LeftOut()
  @IsArray()
  @ValidateNested({ each: true })
  @Type(() => SectionDto)
  sections?: SectionDto[];
}
