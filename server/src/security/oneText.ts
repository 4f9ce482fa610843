import { BadRequestException, Injectable, type ArgumentMetadata, type PipeTransform } from '@nestjs/common';

/** So long a text in an address may be: a file's name, with room to spare. */
const MOST_LETTERS = 1000;

/** Lets one text through, or none: what is said twice, or in parts, comes as something else. */
@Injectable()
export class OneText implements PipeTransform<unknown, string | undefined> {
  transform(given: unknown, { data }: ArgumentMetadata): string | undefined {
    if (given === undefined) return undefined;
    if (typeof given === 'string' && given.length <= MOST_LETTERS) return given.toWellFormed();
    throw new BadRequestException(`Give ${data} once, as one text of at most ${MOST_LETTERS} letters.`);
  }
}
