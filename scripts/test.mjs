import { ensureBuilt, ensureChromium, ensureInstalled, tool } from './lib.mjs';

// One command from a fresh machine to a verdict: install, type-check and build, then lint, Jest and Playwright.
const step = async (what, act) => {
  console.log(`\n— ${what}`);
  await act();
};
/** Waits for all of them: a program that goes on after the verdict would write over what comes next. */
async function beside(...acts) {
  for (const one of await Promise.allSettled(acts.map((act) => act()))) if (one.status === 'rejected') throw one.reason;
}
/** What only computes gives way to what is timed: the walks have sound to keep up with. */
const niced = (name, args, env) => tool(name, args, env, { isNice: true });

try {
  await step('Packages', ensureInstalled);
  await step('Chromium', ensureChromium);
  await step('Types and build', () => tool('tsc', ['-b']).then(() => ensureBuilt()));
  await step('Lint and Jest, and the walks of Playwright beside them', () =>
    beside(
      async () => {
        await niced('eslint', ['.']);
        await niced('prettier', ['--check', '--log-level', 'warn', '.']);
        await niced('knip', ['--no-progress']);
        await niced('jest', [], { NODE_OPTIONS: '--experimental-vm-modules --disable-warning=ExperimentalWarning' });
      },
      () => tool('playwright', ['test', '-c', 'e2e/playwright.config.ts']),
    ),
  );
} catch (error) {
  console.error(`\n${error.message}`);
  process.exit(1);
}
