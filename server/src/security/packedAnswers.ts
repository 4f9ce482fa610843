import {
  Injectable,
  StreamableFile,
  type CallHandler,
  type ExecutionContext,
  type NestInterceptor,
} from '@nestjs/common';
import { PACKED_TYPE, packed } from '@sure-hand/core/formats';
import type { Request, Response } from 'express';
import { map, type Observable } from 'rxjs';

/** Whether the asker takes answers packed: those of our own pages, whose curves then come as bytes. All others get JSON. */
export const wantsPacked = (request: Request): boolean => request.headers.accept === PACKED_TYPE;

/** Answers with a document, packed. */
export function sendPacked(response: Response, document: unknown): void {
  response.type(PACKED_TYPE).end(Buffer.from(packed(document)));
}

/** Packs what a controller answers with, where the asker takes that; files go as they are. */
@Injectable()
export class PackedAnswers implements NestInterceptor {
  intercept(context: ExecutionContext, next: CallHandler<unknown>): Observable<unknown> {
    const http = context.switchToHttp();
    if (!wantsPacked(http.getRequest<Request>())) return next.handle();
    return next.handle().pipe(
      map((document) => {
        if (document === undefined || document instanceof StreamableFile) return document;
        const bytes = packed(document);
        return new StreamableFile(bytes, { type: PACKED_TYPE, length: bytes.length });
      }),
    );
  }
}
