import { ApiProperty } from '@nestjs/swagger';
import { IsInt, IsObject, Min } from 'class-validator';

/** An edit and the revision of the song it was made on. */
export class EditDto {
  @ApiProperty({ description: 'Revision of the song that the edit was made on', example: 41 })
  @IsInt()
  @Min(0)
  revision!: number;

  @ApiProperty({ description: 'One edit, as the song document’s rules have them', type: Object })
  @IsObject()
  edit!: object;
}

/** The revision that undo or redo is asked on. */
export class RevisionDto {
  @ApiProperty({ description: 'Revision of the song that this was asked on', example: 42 })
  @IsInt()
  @Min(0)
  revision!: number;
}
