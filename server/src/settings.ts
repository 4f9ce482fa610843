import { isAbsolute, resolve } from 'node:path';

/** Where the server listens and what it works on; from the environment, with defaults that keep it on this machine. */
export type ServerSettings = {
  readonly host: string;
  readonly port: number;
  /** Holds the database and every song's audio; nothing outside it is read or written. */
  readonly dataFolder: string;
  /** The built interface; null where only the API is served. */
  readonly webFolder: string | null;
  /** Is told what is done to the folder, a sentence each; nobody is where it is left out. */
  readonly say?: (sentence: string) => void;
};

/** Reads PORT, HOST and SURE_HAND_DATA; throws a sentence on a port that is none. */
export function settingsFrom(env: NodeJS.ProcessEnv, base: string, webFolder: string | null): ServerSettings {
  const port = Number(env.PORT ?? 5870);
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    throw new Error(
      `PORT is “${env.PORT}”, which is no port. Give a number from 1 to 65535, or leave it out for 5870.`,
    );
  const data = env.SURE_HAND_DATA ?? 'data';
  return {
    host: env.HOST ?? '127.0.0.1',
    port,
    dataFolder: isAbsolute(data) ? data : resolve(base, data),
    webFolder,
  };
}

/** The token under which settings are injected. */
export const SETTINGS = Symbol('settings');
