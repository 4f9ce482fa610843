import { ensureBuilt, ensureInstalled } from './lib.mjs';

// Standard output is for JSON alone.
console.log = console.error;
await ensureInstalled();
await ensureBuilt({ web: false });
const { main } = await import('../cli/dist/main.js');
process.exitCode = await main(process.argv);
