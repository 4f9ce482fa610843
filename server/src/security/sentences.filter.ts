import { Catch, HttpException, Logger, type ArgumentsHost, type ExceptionFilter } from '@nestjs/common';
import type { Response } from 'express';
import { answerable } from './noRoom.js';
import { sendPacked, wantsPacked } from './packedAnswers.js';

/** What routers and parsers say of themselves has no end. */
const asSentence = (words: string): string => (/[.)!?]$/.test(words) ? words : `${words}.`);

type Answer = { readonly sentence: string };

/** The one place where errors become answers: a sentence each, with whatever else the thrower had to say. */
@Catch()
export class SentencesFilter implements ExceptionFilter {
  readonly #log = new Logger('Server');

  catch(thrown: unknown, host: ArgumentsHost): void {
    const error = answerable(thrown);
    const response = host.switchToHttp().getResponse<Response>();
    if (response.headersSent) return;
    if (!(error instanceof HttpException)) {
      const status = (error as { status?: number }).status;
      if (status && status < 500) {
        response.status(status).json({ sentence: asSentence((error as Error).message) } satisfies Answer);
        return;
      }
      this.#log.error(error instanceof Error ? (error.stack ?? error.message) : String(error));
      response
        .status(500)
        .json({ sentence: 'The server failed at this; what it had kept is safe. Its log says more.' });
      return;
    }
    const body = error.getResponse();
    if (typeof body === 'object' && 'sentence' in body) {
      const { req } = response;
      response.status(error.getStatus());
      if (wantsPacked(req)) sendPacked(response, body);
      else response.json(body);
      return;
    }
    // So the parser says it of a body, whatever it was to be.
    if (error.getStatus() === 413 && /entity too large/.test(error.message)) {
      const sentence = 'This is more than is taken at one time. Do it in parts.';
      response.status(413).json({ sentence } satisfies Answer);
      return;
    }
    const message = typeof body === 'string' ? body : (body as { message?: string | string[] }).message;
    const sentence = Array.isArray(message)
      ? `The request is wrong: ${message.join('; ')}.`
      : asSentence(message ?? error.message);
    response.status(error.getStatus()).json({ sentence } satisfies Answer);
  }
}
