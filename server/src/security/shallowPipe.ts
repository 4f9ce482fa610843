import { BadRequestException, ValidationPipe, type ArgumentMetadata } from '@nestjs/common';
import { isTooDeep } from '@sure-hand/core/formats';

/** The usual check of a request, which takes a body apart step by step: one that is nested without end is turned away first. */
export class ShallowPipe extends ValidationPipe {
  override async transform(value: unknown, metadata: ArgumentMetadata): Promise<unknown> {
    if (metadata.type === 'body' && metadata.metatype !== Object && value === undefined)
      throw new BadRequestException('The request has no body, or none that says it is JSON.');
    // What has a pipe of its own names no class here, and looks at its depth itself.
    if (metadata.metatype !== Object && isTooDeep(value))
      throw new BadRequestException('The request is nested deeper than any that makes sense.');
    return super.transform(value, metadata);
  }
}
