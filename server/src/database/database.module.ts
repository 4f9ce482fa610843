import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Global, Module, type OnModuleInit } from '@nestjs/common';
import { SequelizeModule } from '@nestjs/sequelize';
import { Sequelize } from 'sequelize-typescript';
import sqlite3 from 'sqlite3';
import { SETTINGS, type ServerSettings } from '../settings.js';
import { migrator } from './migrations.js';
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
    this.run('PRAGMA synchronous = FULL');
    this.run('PRAGMA foreign_keys = ON');
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
          storage: join(settings.dataFolder, 'sure-hand.sqlite'),
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
  providers: [OneWriter],
  exports: [SequelizeModule, OneWriter],
})
export class DatabaseModule implements OnModuleInit {
  constructor(private readonly sequelize: Sequelize) {}

  async onModuleInit(): Promise<void> {
    await this.sequelize.query('PRAGMA journal_mode = WAL');
    await migrator(this.sequelize).up();
  }
}
