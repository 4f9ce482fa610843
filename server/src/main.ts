import 'reflect-metadata';
import { existsSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startServer } from './server.js';
import { settingsFrom } from './settings.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const web = join(root, 'web/dist');
const say = (sentence: string): void => console.log(sentence);

try {
  const settings = settingsFrom(process.env, root, existsSync(web) ? web : null);
  const demo = process.env.SURE_HAND_DEMO === 'short' ? 'short' : 'weir-lights';
  const { address } = await startServer(settings, { demo, say });
  say(`Sure Hand is at ${address} (its data in ${settings.dataFolder}). Ctrl+C ends it.`);
  if (!['127.0.0.1', 'localhost', '::1'].includes(settings.host))
    say(
      'HOST is set: programs on other machines reach it there, but browsers play nothing from an address that is neither localhost nor https. For them start it without HOST, and reach it through a tunnel (ssh -L).',
    );
} catch (error) {
  console.error((error as Error).message);
  process.exit(1);
}
