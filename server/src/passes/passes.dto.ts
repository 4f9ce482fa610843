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
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { LeftOut } from '../security/leftOut.js';

/** What a pass is called and what there is to say of it; empty words take them away. */
export class PassWordsDto {
  @ApiProperty({ required: false })
  @LeftOut()
  @IsString()
  @MaxLength(200)
  name?: string;

  @ApiProperty({ required: false })
  @LeftOut()
  @IsString()
  @MaxLength(4000)
  note?: string;
}

/** Over which range loudness is wanted. */
export class LoudnessDto {
  @ApiProperty({ description: 'From and to in seconds' })
  @IsArray()
  @ArrayMinSize(2)
  @ArrayMaxSize(2)
  @IsNumber({}, { each: true })
  range!: [number, number];
}

/** Which layer of which lane is asked about, and where, in seconds. */
export class OriginDto {
  @ApiProperty()
  @IsString()
  @MaxLength(400)
  control!: string;

  @ApiProperty({ enum: ['base', 'trim'] })
  @IsIn(['base', 'trim'])
  layer!: 'base' | 'trim';

  @ApiProperty()
  @Type(() => Number)
  @IsNumber()
  @Min(0)
  @Max(86400)
  t!: number;
}

/** How many of the last entries stay. */
export class PruneDto {
  @ApiProperty({ example: 50 })
  @Type(() => Number)
  @IsInt()
  @Min(1)
  @Max(100_000)
  keep!: number;
}
