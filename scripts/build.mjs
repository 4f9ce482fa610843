import { ensureBuilt, ensureInstalled } from './lib.mjs';

await ensureInstalled();
await ensureBuilt();
