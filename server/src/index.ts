export { makeApp, startServer, type Running } from './server.js';
export { settingsFrom, type ServerSettings } from './settings.js';
export type { History } from './songs/keptSong.js';
export type { LoggedLane, LoggedPass } from './songs/passLog.js';
export type { KeptAnswer, ListedSong, WholeSong } from './songs/songs.controller.js';
export type { ShelvedFile } from './audio/audioShelf.js';
