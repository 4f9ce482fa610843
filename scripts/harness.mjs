import { ensureBuilt, ensureChromium, ensureFirefox, ensureInstalled, tool } from './lib.mjs';

// All tests at full length, the safety harnesses among them: random hands against the slow model of the rules, random walks of undo and redo
// over every kind of edit, hands that come late, input that nobody would send, a hundred worlds of pages at one song with
// a server that comes and goes, a hundred kills of that and of starts; minutes of blocks that leave no garbage; then, in the browser, every walk,
// among them every rule of accessibility on every view and sheet in both themes, every field given all that is no number, names as long as
// they may be, the whole tour on the demo song, a hundred hands that know nothing, and a walk in another browser. `npm test` runs a short form
// of each but those named last.
// SURE_HAND_SEED gives all that is drawn another seed.
try {
  await ensureInstalled();
  await ensureChromium();
  await ensureFirefox();
  await ensureBuilt();
  await tool('jest', ['--runInBand', '--verbose'], {
    SURE_HAND_ALL: '1',
    NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning',
    SURE_HAND_SEQUENCES: process.env.SURE_HAND_SEQUENCES ?? '10000',
    SURE_HAND_WALKS: process.env.SURE_HAND_WALKS ?? '1000',
    SURE_HAND_MUTATIONS: process.env.SURE_HAND_MUTATIONS ?? '10000',
    SURE_HAND_WORLDS: process.env.SURE_HAND_WORLDS ?? '100',
    SURE_HAND_KILLS: process.env.SURE_HAND_KILLS ?? '100',
  });
  await tool('playwright', ['test', '-c', 'e2e/playwright.config.ts'], {
    SURE_HAND_ALL: '1',
    SURE_HAND_MONKEYS: process.env.SURE_HAND_MONKEYS ?? '100',
    SURE_HAND_ACTS: process.env.SURE_HAND_ACTS ?? '300',
  });
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
