import { ensureBuilt, ensureChromium, ensureInstalled, tool, toolBeside } from './lib.mjs';

// One command from a fresh machine to a verdict: install, type-check and build, lint, Jest, Playwright.
const step = async (what, act) => {
  console.log(`\n— ${what}`);
  await act();
};
/** Throws what the first that failed says; all of them have ended. */
function allWell(ended) {
  for (const one of ended) if (one.status === 'rejected') throw one.reason;
}
try {
  await step('Packages', ensureInstalled);
  await step('Chromium', ensureChromium);
  await step('Types, build, lint and form', async () => {
    // All is waited for: a program that goes on after the verdict would write over what comes next.
    const typed = tool('tsc', ['-b']);
    const ended = await Promise.allSettled([
      typed.then(() => ensureBuilt()),
      // What types tell is read from what they were built to.
      tool('oxfmt', ['--check', '.'])
        .then(() => tool('knip', ['--no-progress']))
        .then(() => typed)
        .then(() => tool('oxlint', ['-c', 'oxlint.config.js'])),
    ]);
    allWell(ended);
  });
  // The walks go at the pace of the song's clock and leave a core and less unused: that is Jest's.
  await step('Playwright, and Jest beside it', async () => {
    const ended = await Promise.allSettled([
      tool('playwright', ['test', '-c', 'e2e/playwright.config.ts']),
      toolBeside('jest', [], { NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning' }),
    ]);
    allWell(ended);
  });
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
