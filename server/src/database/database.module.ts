import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Global, Inject, Module, type OnModuleInit } from '@nestjs/common';
import { SequelizeModule } from '@nestjs/sequelize';
import { Sequelize } from 'sequelize-typescript';
import sqlite3 from 'sqlite3';
import { SETTINGS, type ServerSettings } from '../settings.js';
import { DATABASE_FILE } from '../folder/layout.js';
import { keepUpgradeCopy } from '../folder/upgradeCopy.js';
import { CurveStore } from './curveStore.js';
import { bringUpToDate } from './migrations.js';
import { MODELS } from './models.js';
import { OneWriter } from './oneWriter.js';

/** A writer waits so long for another to be done. */
const BUSY_MS = 4000;

/**
 * The driver with every connection set up alike: each transaction has one of its own, and what is said to one of them holds
 * for no other. They wait for each other, and what is said to be kept is on the disk.
 */
class PatientDatabase extends sqlite3.Database {
  constructor(file: string, mode?: number, opened?: (error: Error | null) => void) {
    super(file, mode, opened);
    this.configure('busyTimeout', BUSY_MS);
    // What is wrong with the file is said by what is asked of it first.
    for (const pragma of ['synchronous = FULL', 'foreign_keys = ON']) this.run(`PRAGMA ${pragma}`, () => undefined);
  }
}
const PATIENT_SQLITE = { ...sqlite3, Database: PatientDatabase };

/** The SQLite database in the data folder: WAL, so that reading never waits for writing; full sync, so that what is said to be kept is. */
@Global()
@Module({
  imports: [
    SequelizeModule.forRootAsync({
      inject: [SETTINGS],
      useFactory: (settings: ServerSettings) => {
        mkdirSync(settings.dataFolder, { recursive: true });
        return {
          dialect: 'sqlite' as const,
          storage: join(settings.dataFolder, DATABASE_FILE),
          models: MODELS,
          logging: false,
          synchronize: false,
          retryAttempts: 3,
          retryDelay: 200,
          pool: { max: 1, min: 1, idle: 2 ** 31 - 1 },
          dialectModule: PATIENT_SQLITE,
        };
      },
    }),
    SequelizeModule.forFeature(MODELS),
  ],
  providers: [OneWriter, CurveStore],
  exports: [SequelizeModule, OneWriter, CurveStore],
})
export class DatabaseModule implements OnModuleInit {
  constructor(
    private readonly sequelize: Sequelize,
    @Inject(SETTINGS) private readonly settings: ServerSettings,
  ) {}

  async onModuleInit(): Promise<void> {
    const { dataFolder, say } = this.settings;
    await this.sequelize.query('PRAGMA journal_mode = WAL');
    await bringUpToDate(this.sequelize, async (version) =>
      say?.(await keepUpgradeCopy(this.sequelize, dataFolder, version)),
    );
  }
}

/** What SQLite says of a file that is none of its own, or none any more. */
const DAMAGED = /SQLITE_(NOTADB|CORRUPT)/;

/** The sentence where an error is that of a damaged database; null where it is another. */
export const damagedSentence = (error: unknown, dataFolder: string): string | null =>
  DAMAGED.test((error as Error).message)
    ? `${join(dataFolder, DATABASE_FILE)} is no database that can be read: it is damaged, or another file. Nothing was changed. Put a backup of the folder in its place, or move that one file away: the songs are found by the copies beside their audio then.`
    : null;
