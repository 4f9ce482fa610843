import { gainOfDb, leftGain } from '@sure-hand/core/units';
import { channelWithDefaults } from '@sure-hand/core/song';
import { expect, test } from './app.js';

const SEND = 'lead/send/echo/level';

test('a bus and a send that come while the song rolls are ridden in the same roll, without a gap @long', async ({
  page,
  app,
  ride,
}) => {
  const missed = (): Promise<number> => page.evaluate(() => globalThis.sureHandProbe!.counts().underruns);
  // Waveforms are made as the song is opened; then the server has nothing to do but what is measured here.
  await page.waitForLoadState('networkidle');
  await ride.play();
  await ride.heardPast(0.5);
  // On a busy machine a page of audio may be late by itself; a gap that the change made would come with every one.
  let isWhole = false;
  for (let tries = 0; tries < 3 && !isWhole; tries++) {
    if (tries) await app.edit({ kind: 'removeChannel', channel: 'echo' });
    const before = await missed();
    const readings = ride.gains('lead', 2);
    await app.edit({
      kind: 'addChannel',
      channel: channelWithDefaults({ key: 'echo', kind: 'bus', name: 'Echo' }, 60),
    });
    await app.edit({
      kind: 'send',
      channel: 'lead',
      remove: null,
      add: { bus: 'echo', tap: 'post', pan: 'follow' },
    });
    await expect(page.getByTestId('row-echo')).toBeAttached();
    // The Lead goes on as it was, at its resting −5 dB, in every picture that the page drew meanwhile.
    const heard = await readings;
    const steady = gainOfDb(-5) * leftGain(3, 0);
    for (const { gain } of heard) expect(gain).toBeCloseTo(steady, 6);
    for (let i = 1; i < heard.length; i++) expect(heard[i]!.t).toBeGreaterThanOrEqual(heard[i - 1]!.t);
    isWhole = (await missed()) === before && heard.at(-1)!.t - heard[0]!.t > 1.2;
  }
  expect(isWhole).toBe(true);

  await page.keyboard.press('/');
  await page.getByLabel('Find a control').fill('lead echo send');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
  await ride.dragCap('lead', 150, 1, false);
  await expect(ride.says).toHaveText(/^Writing Lead echo send/i);
  expect(await page.evaluate(() => globalThis.sureHandProbe!.peak('echo'))).toBeGreaterThan(0);
  await page.mouse.up();
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();
  await expect.poll(() => app.points(SEND)).not.toHaveLength(0);
  await expect(ride.says).toHaveText(/^Pass 1: Lead Echo send /);

  // What is in hand goes while the song rolls: the hand takes the row's level, and nothing stops.
  await page.keyboard.press('Enter');
  await ride.play();
  await ride.heardPast((await ride.heard()) + 0.3);
  await app.edit({ kind: 'removeChannel', channel: 'echo' });
  await expect(page.getByTestId('row-echo')).toHaveCount(0);
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
  await expect(ride.value).toHaveText('−5.0 dB');
  await ride.dragCap('lead', 60, 0.5);
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 2: Lead level /);
  await page.reload();
  await expect(page.getByTestId('row-lead')).toBeVisible();
  await expect(page.getByTestId('row-echo')).toHaveCount(0);
  expect(await app.points(SEND)).toEqual([]);
});
