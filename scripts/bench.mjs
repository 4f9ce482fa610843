import { cpus } from 'node:os';
import { ensureBuilt, ensureChromium, ensureFfmpeg, ensureInstalled, nodeVersion } from './lib.mjs';

// Prints one JSON line a figure and then a table. `--quick` rolls for half a minute instead of five.
const quick = process.argv.includes('--quick');
await ensureInstalled();
await ensureChromium();
await ensureFfmpeg();
await ensureBuilt();
const { figure, referenceIs, table } = await import('./bench/figures.mjs');
const { referenceMs } = await import('./bench/reference.mjs');
const { coreFigures } = await import('./bench/core.mjs');
const { bounceFigures } = await import('./bench/bounces.mjs');
const { passFigures } = await import('./bench/passes.mjs');
const { sizeFigures } = await import('./bench/sizes.mjs');
const { browserFigures } = await import('./bench/browser.mjs');
const loop = await referenceMs();
figure({
  name: 'reference loop',
  value: loop,
  unit: 'ms',
  better: 'less',
  note: 'multiply-adds, a JSON round trip, SQLite inserts: bars hold for an hour in which it is at its usual speed',
});
referenceIs(loop);
coreFigures();
await bounceFigures();
await passFigures();
await sizeFigures(quick ? 100 : undefined);
await browserFigures({ minutes: quick ? 0.5 : 5 });
console.log(`\n${cpus().length} × ${cpus()[0].model}, Node ${nodeVersion()}\n\n${table()}`);
