import { connect } from 'node:net';
import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
};
const port = Number(process.env.SURE_HAND_API_PORT ?? 5870);
const server = `http://127.0.0.1:${port}`;

const AGAIN_MS = 100;
const WAIT_MS = 15_000;
const isThere = (): Promise<boolean> =>
  new Promise((found) => {
    const socket = connect(port, '127.0.0.1');
    const say = (there: boolean): void => {
      socket.destroy();
      found(there);
    };
    socket.on('connect', () => say(true)).on('error', () => say(false));
  });

/** A change of the core reloads the page and begins the server anew: what the page asks of it waits until it is there. */
const waitsForServer: Plugin = {
  name: 'waits-for-server',
  configureServer({ middlewares }) {
    middlewares.use('/api', (_request, _response, next) => {
      void (async () => {
        for (let waited = 0; waited < WAIT_MS && !(await isThere()); waited += AGAIN_MS)
          await new Promise((again) => setTimeout(again, AGAIN_MS));
        next();
      })();
    });
  },
};

export default defineConfig({
  plugins: [react(), waitsForServer],
  resolve: {
    alias: [
      {
        find: /^@sure-hand\/core\/([a-z]+)$/,
        replacement: fileURLToPath(new URL('../core/src/$1/index.ts', import.meta.url)),
      },
    ],
  },
  worker: { format: 'es' },
  build: { target: 'es2022', sourcemap: true, chunkSizeWarningLimit: 2000 },
  server: {
    host: '127.0.0.1',
    headers: isolation,
    proxy: {
      '/api': { target: server, changeOrigin: true, headers: { origin: server } },
      '/socket.io': { target: server, changeOrigin: true, ws: true, headers: { origin: server } },
    },
  },
});
