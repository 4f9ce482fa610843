import { shortData } from './app.js';
import { ServerProcess } from './serverProcess.js';
import { rmSync } from 'node:fs';

/** Before the first walk: the short song's data are made, which every walk takes a copy of, in whichever worker. */
export default async function setUp(): Promise<void> {
  rmSync(await shortData(), { recursive: true, force: true });
  await ServerProcess.endIdle();
}
