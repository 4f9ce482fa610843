import type { NextFunction, Request, Response } from 'express';

/** Names under which this machine may be spoken to besides the host the server was told to listen on. */
const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];

/** A text ends at it for a database and for files: no name has it. */
const NOTHING_CALLED_SO = /%00/;

const nameOf = (host: string): string => host.replace(/:\d+$/, '').toLowerCase();

/** The sentence for a request whose host or origin is not this server's own; null for one that may come in. */
export function refusalOf(listensOn: string, { host = '', origin }: { host?: string; origin?: string }): string | null {
  const known = [...LOOPBACK, listensOn.toLowerCase()];
  if (!known.includes(nameOf(host)))
    return `This server does not answer for the host “${host}”. Call it localhost, or start it with HOST set to the name it is to have.`;
  if (origin !== undefined && origin !== `http://${host}`) return `Pages of “${origin}” may not speak to this server.`;
  return null;
}

/**
 * Lets in only requests that name this server as their host, and, where they come from a page, only from its own
 * pages; and isolates the pages, so that they may share memory with their audio thread.
 */
export function doorkeeper(host: string) {
  return (request: Request, response: Response, next: NextFunction): void => {
    response.setHeader('Cross-Origin-Opener-Policy', 'same-origin');
    response.setHeader('Cross-Origin-Embedder-Policy', 'require-corp');
    response.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
    response.setHeader('X-Content-Type-Options', 'nosniff');
    const sentence = refusalOf(host, request.headers);
    if (sentence) response.status(403).json({ sentence });
    else if (NOTHING_CALLED_SO.test(request.url))
      response.status(400).json({ sentence: 'The address has a character in it (%00) that no name has.' });
    else next();
  };
}
