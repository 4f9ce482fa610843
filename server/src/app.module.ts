import { Module, type DynamicModule } from '@nestjs/common';
import { AudioController } from './audio/audio.controller.js';
import { AudioShelf } from './audio/audioShelf.js';
import { BouncesController } from './bounces/bounces.controller.js';
import { BounceShelf } from './bounces/bounceShelf.js';
import { DatabaseModule } from './database/database.module.js';
import { DocumentCopies } from './folder/documentCopies.js';
import { LostAndFound } from './folder/lostAndFound.js';
import { LostController } from './folder/lost.controller.js';
import { ImportsController } from './imports/imports.controller.js';
import { SongMaking } from './imports/songMaking.js';
import { StagedStems } from './imports/stagedStems.js';
import { StemIntake } from './imports/stemIntake.js';
import { JobBoard } from './jobs/jobBoard.js';
import { JobsController } from './jobs/jobs.controller.js';
import { TellersGateway } from './jobs/tellers.gateway.js';
import { WorkPool } from './jobs/workPool.js';
import { JournalLog } from './journals/journalLog.js';
import { JournalsController } from './journals/journals.controller.js';
import { UnderWay } from './security/underWay.js';
import { SETTINGS, type ServerSettings } from './settings.js';
import { PassesController } from './passes/passes.controller.js';
import { Origins } from './passes/origins.js';
import { Pruning } from './passes/pruning.js';
import { PassLog } from './passes/passLog.js';
import { SongsController } from './songs/songs.controller.js';
import { ChangeLog } from './songs/changeLog.js';
import { SongStore } from './songs/songStore.js';

@Module({})
class SettingsModule {
  static with(settings: ServerSettings): DynamicModule {
    return {
      module: SettingsModule,
      global: true,
      providers: [{ provide: SETTINGS, useValue: settings }],
      exports: [SETTINGS],
    };
  }
}

@Module({})
export class AppModule {
  static with(settings: ServerSettings): DynamicModule {
    return {
      module: AppModule,
      imports: [SettingsModule.with(settings), DatabaseModule],
      controllers: [
        ImportsController,
        SongsController,
        PassesController,
        JournalsController,
        AudioController,
        BouncesController,
        JobsController,
        LostController,
      ],
      providers: [
        SongStore,
        ChangeLog,
        PassLog,
        Origins,
        Pruning,
        JournalLog,
        AudioShelf,
        BounceShelf,
        JobBoard,
        WorkPool,
        TellersGateway,
        StagedStems,
        StemIntake,
        SongMaking,
        UnderWay,
        LostAndFound,
        DocumentCopies,
      ],
    };
  }
}
