import { ApiProperty } from '@nestjs/swagger';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsBoolean, IsIn, IsNumber, IsString } from 'class-validator';
import { LeftOut } from '../security/leftOut.js';

export const BOUNCE_BITS = ['16', '24', '32f'] as const;
export type BounceBits = (typeof BOUNCE_BITS)[number];

/** What is to be bounced: the mix, or each of some channels by itself. */
export class BounceDto {
  @ApiProperty({ enum: BOUNCE_BITS })
  @IsIn(BOUNCE_BITS)
  bits!: BounceBits;

  @ApiProperty({ description: 'From and to in seconds; the whole song where there is none', required: false })
  @LeftOut()
  @IsArray()
  @ArrayMinSize(2)
  @ArrayMaxSize(2)
  @IsNumber({}, { each: true })
  range?: [number, number];

  @ApiProperty({ description: 'Channels, each to a file of its own; the mix where there is none', required: false })
  @LeftOut()
  @IsArray()
  @ArrayMaxSize(1000)
  @IsString({ each: true })
  stems?: string[];

  @ApiProperty({ description: 'Stems go through the main’s fader, pan and mute', required: false })
  @LeftOut()
  @IsBoolean()
  throughMain?: boolean;
}
