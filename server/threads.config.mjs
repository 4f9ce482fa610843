import { readdirSync } from 'node:fs';
import { basename, join } from 'node:path';

const src = join(import.meta.dirname, 'src');
const programs = readdirSync(src, { recursive: true }).filter((file) => file.endsWith('Worker.ts'));

/** Each program of a thread in a piece or two, with all that it is made of: a thread that fetches two hundred modules begins a second later. */
export default {
  root: import.meta.dirname,
  build: {
    ssr: true,
    target: 'node20',
    outDir: 'dist-threads',
    emptyOutDir: true,
    rollupOptions: { input: Object.fromEntries(programs.map((file) => [basename(file, '.ts'), join(src, file)])) },
  },
  ssr: { noExternal: true },
};
