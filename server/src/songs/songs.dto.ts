import { ApiProperty } from '@nestjs/swagger';
import { BadRequestException, Injectable, type PipeTransform } from '@nestjs/common';
import { IsInt, IsObject, IsOptional, IsString, MaxLength, Min, validateSync } from 'class-validator';

/** An edit and the revision of the song it was made on. */
export class EditDto {
  @ApiProperty({ description: 'Revision of the song that the edit was made on', example: 41 })
  @IsInt()
  @Min(0)
  revision!: number;

  @ApiProperty({ description: 'One edit, as the song document’s rules have them', type: Object })
  @IsObject()
  edit!: object;

  @ApiProperty({ description: 'The sender’s own name for the edit: sent twice, it is kept once', required: false })
  @IsOptional()
  @IsString()
  @MaxLength(64)
  key?: string;
}

/** The revision that undo or redo is asked on. */
export class RevisionDto {
  @ApiProperty({ description: 'Revision of the song that this was asked on', example: 42 })
  @IsInt()
  @Min(0)
  revision!: number;
}

/**
 * Checks an edit's envelope as it stands. The usual pipe copies what it checks, and an edit can be a pass of many
 * thousand points; its inside is checked against the song by the core.
 */
@Injectable()
export class EditPipe implements PipeTransform<unknown, EditDto> {
  transform(body: unknown): EditDto {
    const dto = Object.assign(new EditDto(), body);
    const wrong = validateSync(dto, { whitelist: true, forbidNonWhitelisted: true, skipMissingProperties: false });
    if (wrong.length) throw new BadRequestException(wrong.flatMap((error) => Object.values(error.constraints ?? {})));
    return dto;
  }
}
