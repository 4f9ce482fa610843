import { Module, type DynamicModule } from '@nestjs/common';
import { AudioController } from './audio/audio.controller.js';
import { AudioShelf } from './audio/audioShelf.js';
import { DatabaseModule } from './database/database.module.js';
import { SETTINGS, type ServerSettings } from './settings.js';
import { PassLog } from './songs/passLog.js';
import { SongsController } from './songs/songs.controller.js';
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
      controllers: [SongsController, AudioController],
      providers: [SongStore, PassLog, AudioShelf],
    };
  }
}
