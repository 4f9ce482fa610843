import { ensureBuilt, ensureChromium, ensureInstalled, tool } from './lib.mjs';

// The safety harnesses at full length: random hands against the slow model of the rules, random walks of undo and redo
// over every kind of edit, hands that come late, input that nobody would send, a hundred worlds of pages at one song with
// a server that comes and goes, and a hundred kills of that; then every rule of accessibility on every view and sheet in
// both themes, and the whole tour on the demo song. `npm test` runs a short form of each. SURE_HAND_SEED gives the kills and worlds another seed.
try {
  await ensureInstalled();
  await ensureChromium();
  await ensureBuilt();
  await tool('jest', ['harness', '--runInBand', '--verbose'], {
    NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning',
    SURE_HAND_SEQUENCES: process.env.SURE_HAND_SEQUENCES ?? '10000',
    SURE_HAND_WALKS: process.env.SURE_HAND_WALKS ?? '1000',
    SURE_HAND_MUTATIONS: process.env.SURE_HAND_MUTATIONS ?? '10000',
    SURE_HAND_WORLDS: process.env.SURE_HAND_WORLDS ?? '100',
    SURE_HAND_KILLS: process.env.SURE_HAND_KILLS ?? '100',
  });
  await tool('playwright', ['test', '-c', 'e2e/playwright.config.ts', 'access', 'tour'], { SURE_HAND_ALL: '1' });
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
