import { existsSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import type { LogLevel } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import { PACKED_TYPE, readyToRead } from '@sure-hand/core/formats';
import type { DemoName } from '@sure-hand/demo-song';
import type { NextFunction, Request, Response } from 'express';
import { AppModule } from './app.module.js';
import { AudioShelf } from './audio/audioShelf.js';
import { BounceShelf } from './bounces/bounceShelf.js';
import { damagedSentence } from './database/database.module.js';
import { isDemoMade } from './demoMark.js';
import { finishRestore } from './folder/backup.js';
import { DocumentCopies } from './folder/documentCopies.js';
import { FolderHold } from './folder/folderHold.js';
import { LostAndFound } from './folder/lostAndFound.js';
import { clearHalfCopies } from './folder/upgradeCopy.js';
import { StagedStems } from './imports/stagedStems.js';
import { PassLog } from './passes/passLog.js';
import { doorkeeper } from './security/doorkeeper.js';
import { GuardedSockets } from './security/guardedSockets.js';
import { PackedAnswers } from './security/packedAnswers.js';
import { SentencesFilter } from './security/sentences.filter.js';
import { ShallowPipe } from './security/shallowPipe.js';
import { UnderWay } from './security/underWay.js';
import type { ServerSettings } from './settings.js';
import { SongStore } from './songs/songStore.js';

/** The largest request body as JSON, and packed: ten million points, more than twenty hands write in an hour. */
const MOST_JSON = '32mb';
const MOST_PACKED = '256mb';

const LOGGED: LogLevel[] = ['error', 'warn'];

/** A running server: where it is, and how to end it. */
export type Running = { readonly address: string; readonly close: () => Promise<void> };

/** Makes the application without listening: what the server's tests drive. */
export async function makeApp(settings: ServerSettings): Promise<NestExpressApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(settings), {
    logger: LOGGED,
    bodyParser: false,
    abortOnError: false,
    // A page that is gone must not keep the server from ending.
    forceCloseConnections: true,
  });
  // On a busy machine what a page sends would meet a connection that is just being ended for having been idle, and be lost.
  (app.getHttpServer() as Server).keepAliveTimeout = 0;
  app.use(doorkeeper(settings.host));
  app.useWebSocketAdapter(new GuardedSockets(app, settings.host));
  app.useBodyParser('json', { limit: MOST_JSON });
  app.useBodyParser('raw', { limit: MOST_PACKED, type: PACKED_TYPE });
  app.useGlobalPipes(new ShallowPipe({ whitelist: true, forbidNonWhitelisted: true }));
  app.useGlobalFilters(new SentencesFilter());
  app.useGlobalInterceptors(app.get(UnderWay), new PackedAnswers());
  const api = new DocumentBuilder().setTitle('Sure Hand').setVersion('1').build();
  SwaggerModule.setup('api/docs', app, () => SwaggerModule.createDocument(app, api));
  if (settings.webFolder) serveWeb(app, settings.webFolder);
  app.enableShutdownHooks();
  return app;
}

/** Serves the built interface; every path that is no file and no part of the API is one of its views. */
function serveWeb(app: NestExpressApplication, folder: string): void {
  app.useStaticAssets(folder, { index: 'index.html' });
  app.use((request: Request, response: Response, next: NextFunction) => {
    const isView = request.method === 'GET' && !request.path.startsWith('/api') && !/\.\w+$/.test(request.path);
    if (isView && existsSync(join(folder, 'index.html'))) response.sendFile('index.html', { root: folder });
    else next();
  });
}

/** The first pass of all is not made sooner. */
const READY_AFTER_MS = 3000;

/** Throws away what an earlier run left half made, and puts aside what is no song's. */
async function tidy(app: NestExpressApplication, { dataFolder, say }: ServerSettings): Promise<void> {
  clearHalfCopies(dataFolder);
  // Of a version that made it there.
  rmSync(join(dataFolder, 'demo-in-the-making'), { recursive: true, force: true });
  app.get(StagedStems).clear();
  app.get(BounceShelf).clearHalfMade();
  for (const sentence of await app.get(LostAndFound).tidy()) say?.(sentence);
}

/** Starts the server: takes hold of the folder, brings the database up to date, makes the demo song if it never was, listens. */
export async function startServer(
  given: ServerSettings,
  options: { readonly demo: DemoName; readonly say: (sentence: string) => void },
): Promise<Running> {
  const settings = { ...given, say: options.say };
  const hold = await FolderHold.take(settings.dataFolder);
  try {
    const replaced = finishRestore(settings.dataFolder);
    if (replaced) settings.say(`A backup was put back to its end. What was there before is in ${replaced}.`);
    const app = await startIn(settings, options.demo);
    const address = (await app.getUrl()).replace('[::1]', 'localhost');
    hold.listensAt(address);
    return { address, close: () => app.close().finally(() => hold.release()) };
  } catch (error) {
    await hold.release();
    throw error;
  }
}

/** Starts the server in a folder that is held. */
async function startIn(
  settings: ServerSettings & { readonly say: (sentence: string) => void },
  demo: DemoName,
): Promise<NestExpressApplication> {
  let app: NestExpressApplication | null = null;
  try {
    app = await makeApp(settings);
    await app.init();
    await tidy(app, settings);
    const keepers = {
      ...{ store: app.get(SongStore), passes: app.get(PassLog) },
      ...{ shelf: app.get(AudioShelf), lost: app.get(LostAndFound) },
    };
    if (!isDemoMade(settings.dataFolder)) {
      // What makes it comes only then: a server starts more often.
      const { makeDemo } = await import('./demo.js');
      await makeDemo(keepers, settings.dataFolder, { say: settings.say, name: demo });
    }
    // Why it can't is said below, in a sentence.
    app.useLogger(false);
    await app.listen(settings.port, settings.host);
    app.useLogger(LOGGED);
  } catch (error) {
    await app?.close();
    const damaged = damagedSentence(error, settings.dataFolder);
    if (damaged) throw new Error(damaged, { cause: error });
    if ((error as { code?: string }).code === 'EADDRINUSE')
      throw new Error(
        `Port ${settings.port} is in use by another program. Stop that one, or start with another: PORT=${settings.port + 1} npm start`,
        { cause: error },
      );
    throw error;
  }
  await app.get(DocumentCopies).begin();
  // Once the first page has what it asks for: the first pass is as quick to keep as any.
  setTimeout(() => readyToRead('pass'), READY_AFTER_MS).unref();
  return app;
}
