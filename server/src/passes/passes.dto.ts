import { ApiProperty } from '@nestjs/swagger';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsNumber, IsString, MaxLength } from 'class-validator';
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
