import { ensureBuilt, ensureInstalled, tool } from './lib.mjs';

// The server runs from what tsc keeps building; Vite serves the interface from its sources and passes /api on.
await ensureInstalled();
await ensureBuilt({ web: false });
await tool(
  'concurrently',
  [
    '-k',
    '-n',
    'build,threads,server,web',
    'tsc -b --watch --preserveWatchOutput',
    'vite build -c server/threads.config.mjs --watch --logLevel warn',
    'node --watch server/dist/main.js',
    'vite web',
  ],
  { SURE_HAND_API_PORT: process.env.PORT ?? '5870' },
);
