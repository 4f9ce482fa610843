import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
};
const server = `http://127.0.0.1:${process.env.SURE_HAND_API_PORT ?? 5870}`;

export default defineConfig({
  plugins: [react()],
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
