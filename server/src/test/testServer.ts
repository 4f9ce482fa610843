import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { PACKED_TYPE, readSong, unpacked } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Job } from '../jobs/jobBoard.js';
import { makeApp } from '../server.js';
import { endedJob } from './endedJob.js';
import { SongStore } from '../songs/songStore.js';

/** A song of one voice with a curve, and a field that this version does not know. */
export const SONG = {
  format: 'sure-hand-song',
  version: 1,
  name: 'Kept',
  length: 60,
  inventor: 'unknown fields stay',
  channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'touch', clips: [{ file: 'voice.wav', length: 1 }] }],
  lanes: {
    'voice/level': {
      rest: -6,
      points: [
        { t: 1, v: -6, shape: 's', bend: 0.25 },
        { t: 4, v: -3 },
      ],
    },
  },
};

export const songOf = (json: object): Song => {
  const read = readSong(json);
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
};

/** What a server answered, packed or as JSON; null where it is nothing. */
export async function answered(answer: Response): Promise<unknown> {
  const bytes = new Uint8Array(await answer.arrayBuffer());
  if (answer.headers.get('Content-Type') === PACKED_TYPE) return unpacked(bytes);
  return bytes.length ? JSON.parse(new TextDecoder().decode(bytes)) : null;
}

/** A server with a data folder of its own, asked over the wire as a page asks it. */
export class TestServer {
  readonly data = mkdtempSync(join(tmpdir(), 'sure-hand-server-'));
  app!: NestExpressApplication;
  address = '';

  async start(): Promise<void> {
    this.app = await makeApp({ host: '127.0.0.1', port: 0, dataFolder: this.data, webFolder: null });
    await this.app.listen(0, '127.0.0.1');
    this.address = (await this.app.getUrl()).replace('[::1]', '127.0.0.1');
  }

  async restart(): Promise<void> {
    await this.app.close();
    await this.start();
  }

  async end(): Promise<void> {
    await this.app.close();
    rmSync(this.data, { recursive: true, force: true });
  }

  create(song: object = SONG): Promise<number> {
    return this.app.get(SongStore).create(songOf(song));
  }

  /** Asks as a page does, which takes answers packed: a GET, or a POST where there is a body; another method where it is named. */
  async ask<Body>(
    path: string,
    body?: object,
    method = body ? 'POST' : 'GET',
  ): Promise<{ status: number; body: Body }> {
    const isPacked = body instanceof Uint8Array;
    const answer = await fetch(`${this.address}/api${path}`, {
      method,
      headers: { Accept: PACKED_TYPE, 'Content-Type': isPacked ? PACKED_TYPE : 'application/json' },
      ...(body ? { body: isPacked ? new Blob([new Uint8Array(body)]) : JSON.stringify(body) } : {}),
    });
    return { status: answer.status, body: (await answered(answer)) as Body };
  }

  /** Sends bytes as they are. */
  async send<Body>(path: string, bytes: Uint8Array, method = 'PUT'): Promise<{ status: number; body: Body }> {
    const answer = await fetch(`${this.address}/api${path}`, { method, body: new Blob([new Uint8Array(bytes)]) });
    return { status: answer.status, body: (await answer.json()) as Body };
  }

  /** A job as it is once it is no longer at work. */
  ended(job: Pick<Job, 'id'>): Promise<Job> {
    return endedJob((path) => this.ask<Job>(path), job);
  }
}
