import {
  Injectable,
  ServiceUnavailableException,
  type BeforeApplicationShutdown,
  type CallHandler,
  type ExecutionContext,
  type NestInterceptor,
} from '@nestjs/common';
import type { Response } from 'express';
import { finalize, type Observable } from 'rxjs';

/** So long the last answers may take. */
const MOST_MS = 5000;

/**
 * What is asked for as the server is told to end is answered before its database closes; what comes after that is sent again by
 * whoever asked, as where there is no server.
 */
@Injectable()
export class UnderWay implements NestInterceptor, BeforeApplicationShutdown {
  #count = 0;
  #onLast: (() => void) | null = null;

  intercept(context: ExecutionContext, next: CallHandler<unknown>): Observable<unknown> {
    if (this.#onLast)
      throw new ServiceUnavailableException('The server is being ended. Start it again; nothing it had is lost.');
    this.#count++;
    const response = context.switchToHttp().getResponse<Response>();
    return next.handle().pipe(
      finalize(() => {
        if (response.closed) this.#done();
        else response.once('close', () => this.#done());
      }),
    );
  }

  async beforeApplicationShutdown(): Promise<void> {
    await new Promise<void>((ended) => {
      this.#onLast = ended;
      if (!this.#count) ended();
      setTimeout(ended, MOST_MS).unref();
    });
  }

  #done(): void {
    if (!--this.#count) this.#onLast?.();
  }
}
