import { ensureBuilt, ensureInstalled } from './lib.mjs';

try {
  await ensureInstalled();
  await ensureBuilt();
} catch (error) {
  console.error(`Sure Hand could not be made ready: ${error.message}.`);
  process.exit(1);
}
await import('../server/dist/main.js');
