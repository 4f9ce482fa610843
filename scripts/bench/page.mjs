import { chromium } from '@playwright/test';
import { CHROMIUM } from '../lib.mjs';

export const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--autoplay-policy=no-user-gesture-required',
];
export const launch = () => chromium.launch({ executablePath: CHROMIUM, args: FLAGS });

export const usable = (page) =>
  page.waitForFunction(
    () =>
      document.querySelector('[data-testid=hand-says]')?.textContent &&
      document.querySelector('[data-testid=lanes] canvas'),
  );

export async function pageOn(address, id, browser) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`${address}/songs/${id}/ride`);
  await usable(page);
  return { page };
}
