import { ensureBuilt, ensureChromium, ensureInstalled, tool } from './lib.mjs';

// One command from a fresh machine to a verdict: install, type-check and build, lint, Jest, Playwright.
const step = async (what, act) => {
  console.log(`\n— ${what}`);
  await act();
};
try {
  await step('Packages', ensureInstalled);
  await step('Chromium', ensureChromium);
  // Each keeps one core busy, and neither needs the other.
  await step('Types, build and form, and lint beside them', async () => {
    const linting = tool('eslint', ['.']);
    const building = tool('tsc', ['-b'])
      .then(() => ensureBuilt())
      .then(() => tool('prettier', ['--check', '--log-level', 'warn', '.']))
      .then(() => tool('knip', ['--no-progress']));
    // Both are waited for: a program that goes on after the verdict would write over what comes next.
    const [built, linted] = await Promise.allSettled([building, linting]);
    for (const one of [built, linted]) if (one.status === 'rejected') throw one.reason;
  });
  await step('Jest', () =>
    tool('jest', [], { NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning' }),
  );
  await step('Playwright', () => tool('playwright', ['test', '-c', 'e2e/playwright.config.ts']));
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
