import type { INestApplicationContext } from '@nestjs/common';
import { IoAdapter } from '@nestjs/platform-socket.io';
import type { Server, ServerOptions } from 'socket.io';
import { refusalOf } from './doorkeeper.js';

/** Sockets behind the same door as every request: they do not pass the application's own. */
export class GuardedSockets extends IoAdapter {
  constructor(
    app: INestApplicationContext,
    readonly host: string,
  ) {
    super(app);
  }

  override createIOServer(port: number, options?: ServerOptions): Server {
    return super.createIOServer(port, {
      ...options,
      allowRequest: (request, allow) => {
        const sentence = refusalOf(this.host, request.headers);
        allow(sentence, sentence === null);
      },
    } as ServerOptions);
  }
}
