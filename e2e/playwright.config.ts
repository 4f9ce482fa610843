import { defineConfig } from '@playwright/test';

/** Drives the built application in Debian's Chromium with its real audio clock, one walk at a time: it keeps a core and more busy. */
export default defineConfig({
  testDir: 'src',
  // Limits for what hangs: a busy machine is no failure.
  timeout: 180_000,
  expect: { timeout: 20_000 },
  fullyParallel: false,
  // Walks that go once more, at length, over what others and Jest hold by themselves: by `npm run harness`.
  ...(process.env.SURE_HAND_ALL ? {} : { grepInvert: /@long/ }),
  workers: 1,
  // The machine may be shared, and the audio clock with it: a test held up once may try again, and is told to be flaky.
  retries: process.env.SURE_HAND_ALL ? 0 : 1,
  reporter: [['list']],
  outputDir: '../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--autoplay-policy=no-user-gesture-required',
      ],
    },
  },
});
