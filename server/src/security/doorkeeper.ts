import type { NextFunction, Request, Response } from 'express';

/** Names under which this machine may be spoken to besides the host the server was told to listen on. */
const LOOPBACK = ['localhost', '127.0.0.1', '[::1]'];

const nameOf = (host: string): string => host.replace(/:\d+$/, '').toLowerCase();

/**
 * Lets in only requests that name this server as their host, and, where they come from a page, only from its own
 * pages; and isolates the pages, so that they may share memory with their audio thread.
 */
export function doorkeeper(host: string) {
  const known = new Set([...LOOPBACK, host.toLowerCase()]);
  return (request: Request, response: Response, next: NextFunction): void => {
    response.setHeader('Cross-Origin-Opener-Policy', 'same-origin');
    response.setHeader('Cross-Origin-Embedder-Policy', 'require-corp');
    response.setHeader('Cross-Origin-Resource-Policy', 'same-origin');
    response.setHeader('X-Content-Type-Options', 'nosniff');
    const asked = request.headers.host ?? '';
    if (!known.has(nameOf(asked))) {
      response.status(403).json({ sentence: `This server does not answer for the host “${asked}”.` });
      return;
    }
    const { origin } = request.headers;
    if (origin !== undefined && origin !== `http://${asked}`) {
      response.status(403).json({ sentence: `Pages of “${origin}” may not speak to this server.` });
      return;
    }
    next();
  };
}
