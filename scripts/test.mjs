import { ensureBuilt, ensureChromium, ensureInstalled, tool } from './lib.mjs';

// One command from a fresh machine to a verdict: install, type-check and build, lint, Jest, Playwright.
const step = async (what, act) => {
  console.log(`\n— ${what}`);
  await act();
};
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
    for (const one of ended) if (one.status === 'rejected') throw one.reason;
  });
  await step('Jest', () =>
    tool('jest', [], { NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning' }),
  );
  await step('Playwright', () => tool('playwright', ['test', '-c', 'e2e/playwright.config.ts']));
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
