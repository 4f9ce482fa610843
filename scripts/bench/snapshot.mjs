import { cpSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { readSong } from '../../core/dist/formats/index.js';
import { makeApp } from '../../server/dist/index.js';
import { SongStore } from '../../server/dist/songs/songStore.js';
import { figure, median } from './figures.mjs';
import { launch, usable } from './page.mjs';

const TRACKS = 64;
const BUSES = ['hall', 'slap', 'swirl', 'room'];
const LENGTH = 120;
const KEY = 'all-of-it';
/** A channel whose gain tells when the snapshot is heard. */
const EAR = 't5';

/** A song of 64 tracks with four sends each, at rest, and a snapshot of all of it in which everything is elsewhere. */
export async function snapshotSong(data) {
  const demo = join(data, 'songs/1');
  const app = await makeApp({ host: '127.0.0.1', port: 0, dataFolder: data, webFolder: null });
  await app.init();
  const files = readdirSync(demo).filter((name) => name.endsWith('.wav'));
  const keys = Array.from({ length: TRACKS }, (_, i) => `t${i}`);
  const sendsOf = (key) => BUSES.map((bus) => `${key}/send/${bus}`);
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    name: 'A snapshot of 64 channels',
    length: LENGTH,
    channels: [
      ...keys.map((key, i) => ({
        ...{ key, kind: 'track', name: `Track ${i + 1}` },
        clips: [{ file: files[i % files.length], length: 30 }],
        sends: BUSES.map((bus) => ({ bus })),
      })),
      ...BUSES.map((key) => ({ key, kind: 'bus', name: key })),
    ],
    lanes: Object.fromEntries(keys.map((key) => [`${key}/level`, { rest: -20 }])),
    snapshots: [
      {
        ...{ key: KEY, name: 'All of it', t: 0 },
        values: Object.fromEntries(
          keys.flatMap((key, i) => [
            [`${key}/level`, -10 - (i % 5)],
            [`${key}/pan`, (i % 9) / 10 - 0.4],
            [`${key}/mute`, 0],
            ...sendsOf(key).flatMap((send) => [
              [`${send}/level`, -18 - (i % 7)],
              [`${send}/on`, 1],
            ]),
          ]),
        ),
      },
    ],
  });
  if (!read.ok) throw new Error(read.sentence);
  const id = await app.get(SongStore).create(read.value);
  await app.close();
  cpSync(demo, join(data, 'songs', String(id)), { recursive: true });
  return id;
}

/** From the next press of a key on: when a channel is heard elsewhere, and the picture after that; or when all is stored. */
const watch = (page, key, until) =>
  page.evaluateHandle(
    ([pressed, what, ear]) => {
      const seen = new Promise((done) => {
        const begun = ({ key: own, timeStamp }) => {
          if (own.toLowerCase() !== pressed) return;
          removeEventListener('keydown', begun, true);
          const was = sureHandProbe.gain(ear).gain;
          let heard = null;
          const look = () => {
            const now = performance.now() - timeStamp;
            if (what === 'stored') {
              if (sent && sureHandProbe.unsent() === 0) return done({ stored: now });
              sent ||= sureHandProbe.unsent() > 0;
            } else {
              if (heard !== null) return done({ heard, drawn: now });
              if (Math.abs(sureHandProbe.gain(ear).gain / was - 1) > 0.5) heard = now;
            }
            (what === 'stored' ? setTimeout : requestAnimationFrame)(look);
          };
          let sent = false;
          look();
        };
        addEventListener('keydown', begun, true);
      });
      return { seen };
    },
    [key, until, EAR],
  );

/** A snapshot of 64 channels with all sends placed while the song rolls: heard, drawn, stored. */
export async function snapshotFigures(address, id) {
  const browser = await launch();
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(
    ([key, view]) => localStorage.setItem(key, JSON.stringify(view)),
    [`sure-hand/view/${id}`, { snapshot: KEY, range: [0, LENGTH], secPerScreen: 30 }],
  );
  await page.goto(`${address}/songs/${id}/ride`);
  await usable(page);
  const runs = [];
  for (let k = 0; k < 5; k++) {
    await page.keyboard.press('Space');
    const from = await page.evaluate(() => sureHandProbe.heard());
    await page.waitForFunction((t) => sureHandProbe.heard() > t + 1, from);
    const hearing = await watch(page, 'p', 'heard');
    await page.keyboard.press('Alt+p');
    const { heard, drawn } = await hearing.evaluate(({ seen }) => seen);
    const storing = await watch(page, 'enter', 'stored');
    await page.keyboard.press('Enter');
    const { stored } = await storing.evaluate(({ seen }) => seen);
    runs.push({ heard, drawn, stored });
    await page.keyboard.press('Space');
    await page.keyboard.press('Control+z');
    await page.waitForFunction(() => /Taken back/.test(document.querySelector('[data-testid=hand-says]').textContent));
  }
  await browser.close();
  const controls = TRACKS * (2 + BUSES.length);
  const of = (what) => median(runs.map((run) => run[what]));
  figure({
    name: 'snapshot of 64 channels with 4 sends each placed → heard and drawn',
    value: of('drawn'),
    unit: 'ms',
    must: 100,
    better: 'less',
    note: `${controls} controls change; from the key, while it rolls: heard after ${of('heard').toFixed(0)} ms, and the picture after that; the first one after opening took ${runs[0].drawn.toFixed(0)} ms`,
  });
  figure({
    name: 'the same, Enter → stored',
    value: of('stored'),
    unit: 'ms',
    must: 500,
    better: 'less',
    note: `the server has answered; the first one after opening took ${runs[0].stored.toFixed(0)} ms`,
  });
}
