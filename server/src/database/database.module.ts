import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { Global, Module, type OnModuleInit } from '@nestjs/common';
import { SequelizeModule } from '@nestjs/sequelize';
import { Sequelize } from 'sequelize-typescript';
import { SETTINGS, type ServerSettings } from '../settings.js';
import { migrator } from './migrations.js';
import { MODELS } from './models.js';

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
        };
      },
    }),
    SequelizeModule.forFeature(MODELS),
  ],
  exports: [SequelizeModule],
})
export class DatabaseModule implements OnModuleInit {
  constructor(private readonly sequelize: Sequelize) {}

  async onModuleInit(): Promise<void> {
    for (const pragma of ['journal_mode = WAL', 'synchronous = FULL', 'foreign_keys = ON', 'busy_timeout = 4000'])
      await this.sequelize.query(`PRAGMA ${pragma}`);
    await migrator(this.sequelize).up();
  }
}
