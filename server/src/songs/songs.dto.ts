import { ApiProperty, ApiPropertyOptional } from '@nestjs/swagger';
import { unpacked } from '@sure-hand/core/formats';
import { EDIT_KINDS } from '@sure-hand/core/edits';
import { BadRequestException, Injectable, type PipeTransform } from '@nestjs/common';
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
  IsInt,
  IsObject,
  IsOptional,
  IsString,
  Matches,
  MaxLength,
  Min,
  validateSync,
} from 'class-validator';
import { LeftOut } from '../security/leftOut.js';

/** Every kind of edit, as the core checks it. Through JSON: what its schemas are made with is not for publishing. */
const EDIT_SCHEMAS = JSON.parse(JSON.stringify(EDIT_KINDS.map(({ schema }) => schema))) as Record<string, unknown>[];

/** What a sender's key may be made of: no control characters, which a database's statement ends at. */
const KEY = /^\P{Cc}*$/u;

/** An edit and the revision of the song it was made on. */
export class EditDto {
  @ApiProperty({ description: 'Revision of the song that the edit was made on', example: 41 })
  @IsInt()
  @Min(0)
  revision!: number;

  @ApiProperty({ description: 'One edit, of any kind there is', oneOf: EDIT_SCHEMAS })
  @IsObject()
  edit!: object;

  @ApiProperty({ description: 'The sender’s own name for the edit: sent twice, it is kept once', required: false })
  @LeftOut()
  @IsString()
  @MaxLength(64)
  @Matches(KEY)
  key?: string;

  @ApiProperty({
    description: 'The answer need not bring the edit back where it was kept as it was sent',
    required: false,
  })
  @LeftOut()
  @IsBoolean()
  brief?: boolean;
}

/** Keys of edits that somebody has sent, and never got an answer to. */
export class KeysDto {
  @ApiProperty({ description: 'Keys of edits', type: [String] })
  @IsArray()
  @ArrayMaxSize(1000)
  @IsString({ each: true })
  @MaxLength(64, { each: true })
  @Matches(KEY, { each: true })
  keys!: string[];
}

/** The revision that undo or redo is asked on, and which step is meant. */
export class StepDto {
  @ApiProperty({ description: 'Revision of the song that this was asked on', example: 42 })
  @IsInt()
  @Min(0)
  revision!: number;

  @ApiPropertyOptional({
    description: 'The step that is meant, as the history names it: no other is taken',
    example: 7,
  })
  @IsOptional()
  @IsInt()
  @Min(0)
  step?: number;
}

/** What a page packed. */
function openedBody(body: Uint8Array): unknown {
  try {
    return unpacked(body);
  } catch (error) {
    throw new BadRequestException(`The edit can’t be unpacked: ${(error as Error).message}.`);
  }
}

const FIELDS = ['revision', 'edit', 'key', 'brief'];

/**
 * Checks an edit's envelope as it stands. The usual pipe copies what it checks, and an edit can be a pass of many
 * thousand points; its inside is checked against the song by the core.
 */
@Injectable()
export class EditPipe implements PipeTransform<unknown, EditDto> {
  transform(body: unknown): EditDto {
    const opened = body instanceof Uint8Array ? openedBody(body) : body;
    const given = opened && typeof opened === 'object' && !Array.isArray(opened) ? (opened as Partial<EditDto>) : {};
    const odd = Object.keys(given).filter((key) => !FIELDS.includes(key));
    if (odd.length) throw new BadRequestException(odd.map((key) => `property ${key} should not exist`));
    // Field by field: nothing that a body may name reaches what the class itself is made of.
    const dto = new EditDto();
    if (given.revision !== undefined) dto.revision = given.revision;
    if (given.edit !== undefined) dto.edit = given.edit;
    if (given.key !== undefined) dto.key = given.key;
    if (given.brief !== undefined) dto.brief = given.brief;
    const wrong = validateSync(dto, { skipMissingProperties: false });
    if (wrong.length) throw new BadRequestException(wrong.flatMap((error) => Object.values(error.constraints ?? {})));
    return dto;
  }
}
