import { ensureBuilt, ensureChromium, ensureInstalled, tool } from './lib.mjs';

// One command from a fresh machine to a verdict: install, type-check and build, lint, Jest, Playwright.
const step = async (what, act) => {
  console.log(`\n— ${what}`);
  await act();
};
try {
  await step('Packages', ensureInstalled);
  await step('Chromium', ensureChromium);
  await step('Types and build', async () => {
    await tool('tsc', ['-b']);
    await ensureBuilt();
  });
  await step('Lint', async () => {
    await tool('eslint', ['.']);
    await tool('prettier', ['--check', '--log-level', 'warn', '.']);
  });
  await step('Jest', () =>
    tool('jest', [], { NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning' }),
  );
  await step('Playwright', () => tool('playwright', ['test', '-c', 'e2e/playwright.config.ts']));
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
