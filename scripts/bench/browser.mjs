import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../lib.mjs';
import { barePage } from './barePage.mjs';
import { bigSong, start } from './bigSong.mjs';
import { figure, median, percentile } from './figures.mjs';
import { frameFigures, sixtyFourFigures } from './frames.mjs';
import { MENDED, mendFigures } from './mending.mjs';
import { FLAGS, launch, pageOn, usable } from './page.mjs';
import { audioThreadSec, browserSec, pssMb } from './processes.mjs';
import { snapshotFigures, snapshotSong } from './snapshot.mjs';
import { longestTasks } from './tasks.mjs';

/** The demo's data as a first start makes it, with the figures of its making. */
async function demoData() {
  const data = join(root, '.tmp/bench-demo');
  rmSync(data, { recursive: true, force: true });
  const began = performance.now();
  const { server, said } = await start(data);
  const sec = (performance.now() - began) / 1000;
  server.kill();
  const made = /ready: (\d+) MB of audio in ([\d.]+) s/.exec(said());
  figure({
    name: 'demo audio made, 24 tracks',
    value: Number(made[2]),
    unit: 's',
    must: 40,
    better: 'less',
    note: `${made[1]} MB; first start of the built server ${sec.toFixed(1)} s in all`,
  });
  return data;
}

async function startFigure(data) {
  const runs = [];
  for (let k = 0; k < 3; k++) {
    const browser = await launch();
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const began = performance.now();
    const { server, address } = await start(data);
    await page.goto(`${address}/songs/1/ride`);
    await usable(page);
    runs.push((performance.now() - began) / 1000);
    await browser.close();
    server.kill();
  }
  figure({
    name: 'npm start, demo present → page usable',
    value: median(runs),
    unit: 's',
    must: 5,
    aim: 3,
    better: 'less',
    note: 'scripts/start.mjs to the hand bar’s first sentence',
  });
}

const USABLE = `!!(document.querySelector('[data-testid=hand-says]')?.textContent && document.querySelector('[data-testid=lanes] canvas'))`;
const pause = (ms) => new Promise((done) => setTimeout(done, ms));

/** Rolls the song that a page has open for some minutes: what was counted before and after, and how long it took. */
async function rolled(page, minutes) {
  await page.pressSpace();
  await page.until('sureHandProbe.heard() > 2');
  const look = async () => ({
    cpu: audioThreadSec(page.pid),
    at: performance.now(),
    ...(await page.evaluate('({ ...sureHandProbe.counts(), heard: sureHandProbe.heard() })')),
  });
  const before = await look();
  await pause(minutes * 60_000);
  const after = await look();
  return { before, after, wall: (after.at - before.at) / 1000 };
}

/** The same with a four-band equaliser on each track, all twelve parameters of each on the move: the audio thread alone. */
async function equalisedFigures(address, id, minutes) {
  const page = await barePage(FLAGS);
  await page.goto(`${address}/songs/${id}/ride`);
  await page.until(USABLE);
  const { before, after, wall } = await rolled(page, minutes);
  figure({
    name: 'the same with a moving four-band equaliser on each track',
    value: (100 * (after.cpu - before.cpu)) / wall,
    unit: '% of a core',
    must: 30,
    aim: 15,
    better: 'less',
    note: `${minutes} min rolling, all twelve parameters of each; ${after.underruns - before.underruns} blocks lacked a page`,
  });
  await page.close();
}

// Many short turns: what else the browser does changes by more than the spectrum takes.
const SPECTRUM_SEC = 3;
const SPECTRUM_TIMES = 16;

/** What the spectrum behind an equaliser costs all of the browser: its picture in the rolling song with it and without, in turns. */
async function spectrumFigure(address, id) {
  const page = await barePage(FLAGS);
  await page.goto(`${address}/songs/${id}/ride`);
  await page.until(USABLE);
  await page.evaluate(`(() => {
    const of = AnalyserNode.prototype;
    const bins = Object.getOwnPropertyDescriptor(of, 'frequencyBinCount').get;
    const read = of.getFloatFrequencyData;
    globalThis.hasSpectrum = true;
    Object.defineProperty(of, 'frequencyBinCount', { get() { return globalThis.hasSpectrum ? bins.call(this) : 0; } });
    of.getFloatFrequencyData = function (into) { if (globalThis.hasSpectrum) read.call(this, into); };
  })()`);
  await page.press('E', 'KeyE', 69, 1 + 8);
  await page.until("!!document.querySelector('[data-testid=effect-picture]')");
  await page.pressSpace();
  await page.until('sureHandProbe.heard() > 2');
  const used = async (withIt) => {
    await page.evaluate(`void (globalThis.hasSpectrum = ${withIt})`);
    await pause(200);
    const [cpu, at] = [browserSec(page.pid), performance.now()];
    await pause(SPECTRUM_SEC * 1000);
    return (1e5 * (browserSec(page.pid) - cpu)) / (performance.now() - at);
  };
  const shares = [];
  for (let k = 0; k < SPECTRUM_TIMES; k++) {
    // With it first and without it first, in turns.
    const [first, second] = [await used(k % 2 === 0), await used(k % 2 === 1)];
    shares.push(k % 2 === 0 ? first - second : second - first);
  }
  const inTurn = [...shares].sort((a, b) => a - b);
  figure({
    name: 'the spectrum behind an equaliser',
    value: median(shares),
    unit: '% of a core',
    must: 2,
    better: 'less',
    note: `all of the browser with it less without it, in ${SPECTRUM_TIMES} turns of ${SPECTRUM_SEC} s; half of them between ${inTurn[SPECTRUM_TIMES / 4].toFixed(1)} and ${inTurn[(3 * SPECTRUM_TIMES) / 4].toFixed(1)}`,
  });
  await page.close();
}

/** Five minutes of a large song with Ride rolling: what the audio thread and the browser's memory come to. */
async function rollFigures(address, id64, minutes) {
  const page = await barePage(FLAGS);
  await pause(1500);
  const blankMb = pssMb(page.pid);
  const began = performance.now();
  await page.goto(`${address}/songs/${id64}/ride`);
  await page.until(USABLE);
  figure({
    name: 'open a 64-track song of 200,000 points, to usable',
    value: (performance.now() - began) / 1000,
    unit: 's',
    must: 2,
    aim: 1,
    better: 'less',
    note: '',
  });
  const { before, after, wall } = await rolled(page, minutes);
  figure({
    name: 'audio thread, 64 tracks with moving levels and pans',
    value: (100 * (after.cpu - before.cpu)) / wall,
    unit: '% of a core',
    must: 20,
    aim: 8,
    better: 'less',
    note: `${minutes} min rolling, by the thread’s CPU time`,
  });
  figure({
    name: 'blocks that lacked a page meanwhile',
    value: after.underruns - before.underruns,
    unit: 'blocks',
    must: 0,
    better: 'less',
  });
  figure({
    name: 'song clock behind the wall meanwhile',
    value: Math.max(0, wall - (after.heard - before.heard)),
    unit: 's',
    must: 0.1,
    better: 'less',
    note: 'the headless browser plays into a timer of its own, which falls behind when the machine is busy',
  });
  figure({
    name: 'browser memory, 64 tracks × 6 min',
    value: pssMb(page.pid) - blankMb,
    unit: 'MB',
    must: 600,
    aim: 300,
    better: 'less',
    note: `proportional set sizes less a blank page, after ${minutes} min of rolling, no inspector keeping what is fetched; whether it grows is told by npm run soak`,
  });
  await page.close();
}

const USUAL = { width: 1280, height: 800 };
/** So high that every row has its cap in sight. */
const HIGH = { width: 1280, height: 2600 };
/** As many fingers as a browser tells apart. */
const FINGERS = 16;
const RIDE_SEC = 30;

/** Many fingers ride side by side: how long the page is held up as the song stops. */
async function stopFigure(address, id24) {
  const browser = await launch();
  const page = await browser.newPage({ viewport: USUAL, hasTouch: true });
  await page.goto(`${address}/songs/${id24}/ride`);
  await usable(page);
  const cdp = await page.context().newCDPSession(page);
  const touch = (type, touchPoints) => cdp.send('Input.dispatchTouchEvent', { type, touchPoints });
  await page.evaluate(() => {
    globalThis.heldUp = 0;
    const { port1, port2 } = new MessageChannel();
    let last = performance.now();
    port1.onmessage = () => {
      const now = performance.now();
      globalThis.heldUp = Math.max(globalThis.heldUp, now - last);
      last = now;
      port2.postMessage(0);
    };
    port2.postMessage(0);
  });
  const heldUpWhile = async (act) => {
    await page.evaluate(() => (globalThis.heldUp = 0));
    await act();
    return page.evaluate(() => globalThis.heldUp);
  };
  const atStop = [];
  const longest = [];
  const rolling = [];
  for (let k = 0; k < 3; k++) {
    await page.setViewportSize(HIGH);
    const lanes = await page.getByTestId('lanes').boundingBox();
    await page.keyboard.press('Home');
    await page.keyboard.press('Space');
    await page.waitForFunction(() => sureHandProbe.heard() > 0.5);
    const x = lanes.x + (await page.evaluate(() => sureHandProbe.lineX));
    const fingers = [];
    for (let id = 0; id < FINGERS; id++) {
      const { y, height } = await page.getByTestId(`row-t${id}`).boundingBox();
      fingers.push({ id, x, y: y + height / 2 });
    }
    await touch('touchStart', fingers);
    const until = performance.now() + 1000 * RIDE_SEC;
    for (let n = 0; performance.now() < until; n++) {
      await touch(
        'touchMove',
        fingers.map((one) => ({ ...one, y: one.y + 15 * Math.sin(n * (0.05 + one.id / 200)) })),
      );
      await pause(1000 / 60);
    }
    await touch('touchEnd', []);
    // Stopped as it is looked at: rows out of sight are none of it.
    await page.setViewportSize(USUAL);
    await pause(1500);
    rolling.push(await heldUpWhile(() => pause(500)));
    const tasks = await longestTasks(browser, page, async () => {
      const stopped = await heldUpWhile(async () => {
        await page.keyboard.press('Space');
        await page.waitForFunction(() => sureHandProbe.unsent() === 0);
      });
      atStop.push(stopped);
    });
    longest.push(tasks.besidesPictures);
  }
  const kept = await (await fetch(`${address}/api/songs/${id24}/passes`)).json();
  figure({
    name: 'longest task as a pass stops, pictures left out',
    value: median(longest),
    unit: 'ms',
    must: 16,
    better: 'less',
    note: `commit, telling, sending: each a task of its own; in each of three stops ${longest.map((ms) => ms.toFixed(0)).join(', ')}`,
  });
  figure({
    name: 'page held up as a pass stops, at most',
    value: median(atStop),
    unit: 'ms',
    must: 16,
    better: 'less',
    note: `${kept[0].receipt.lanes.length} lanes ridden for ${RIDE_SEC} s; while it rolled, pictures included: ${median(rolling).toFixed(0)} ms`,
  });
  await browser.close();
}

/** Play to sound, a hand to sound, and how well moves are stamped, on the demo. */
async function handFigures(address) {
  const browser = await launch();
  const { page } = await pageOn(address, 1, browser);
  await page.getByRole('button', { name: 'Verse 1' }).click();
  await page.keyboard.press('Space');
  await page.waitForFunction(() => sureHandProbe.peak('lead') > 0.001);
  await page.keyboard.press('Space');
  const starts = [];
  for (let k = 0; k < 7; k++) {
    await page.getByRole('button', { name: 'Chorus 1' }).click();
    await page.waitForFunction(() => sureHandProbe.peak('lead') < 1e-4);
    starts.push(
      await page.evaluate(
        () =>
          new Promise((done) => {
            const begun = performance.now();
            document.dispatchEvent(new KeyboardEvent('keydown', { code: 'Space', key: ' ', bubbles: true }));
            const channel = new MessageChannel();
            channel.port1.onmessage = () => {
              if (sureHandProbe.peak('nylon-guitar') > 1e-4) done(performance.now() - begun);
              else channel.port2.postMessage(0);
            };
            channel.port2.postMessage(0);
          }),
      ),
    );
    await page.keyboard.press('Space');
  }
  figure({
    name: 'play pressed → sound, warm',
    value: median(starts),
    unit: 'ms',
    must: 200,
    aim: 80,
    better: 'less',
    note: 'to the first rendered block that sounds; the output’s own latency comes on top',
  });
  await page.keyboard.press('Space');
  await page.waitForFunction(() => sureHandProbe.peak('lead') > 0.001);
  await stampFigures(page);
  await browser.close();
}

async function stampFigures(page) {
  const lanes = await page.getByTestId('lanes').boundingBox();
  const head = await page.getByTestId('row-lead').boundingBox();
  const x = lanes.x + (await page.evaluate(() => sureHandProbe.lineX));
  const y = head.y + head.height / 2;
  await page.evaluate(() => {
    globalThis.stamps = [];
    addEventListener(
      'pointermove',
      (event) => {
        for (const one of event.getCoalescedEvents()) stamps.push(one.timeStamp);
      },
      true,
    );
  });
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.evaluate(() => (stamps.length = 0));
  // Always another value, so that every move is one in the recorder too.
  for (let i = 1; i <= 200; i++) await page.mouse.move(x, y - i / 2);
  const { stamps, values } = await page.evaluate(() => ({
    stamps: globalThis.stamps,
    values: sureHandProbe
      .stamped('lead/level')
      .slice(1)
      .map((value) => value.t),
  }));
  await page.mouse.up();
  const n = Math.min(stamps.length, values.length);
  const a = stamps.slice(-n).map((ms) => ms / 1000);
  const b = values.slice(-n);
  const mean = (list) => list.reduce((sum, v) => sum + v, 0) / n;
  const [ma, mb] = [mean(a), mean(b)];
  const slope = a.reduce((sum, v, i) => sum + (v - ma) * (b[i] - mb), 0) / a.reduce((sum, v) => sum + (v - ma) ** 2, 0);
  const off = a.map((v, i) => Math.abs(b[i] - mb - slope * (v - ma)) * 1000);
  figure({
    name: 'time error of written moves, 95 %',
    value: percentile(off, 0.95),
    unit: 'ms',
    must: 3,
    aim: 1,
    better: 'less',
    note: `${n} moves against their own time stamps, a line fitted; largest ${Math.max(...off).toFixed(2)} ms`,
  });
}

export async function browserFigures({ minutes }) {
  const data = await demoData();
  await startFigure(data);
  const id64 = await bigSong(data, { tracks: 64, length: 360, points: 200_000 });
  const idEqualised = await bigSong(data, { tracks: 64, length: 190, points: 100_000, equalised: true });
  const id24 = await bigSong(data, { tracks: 24, length: 190, points: 100_000, touched: FINGERS });
  const idMended = await bigSong(data, { tracks: 4, length: MENDED.length, points: 8 * MENDED.points });
  const idSnapshot = await snapshotSong(data);
  const { server, address } = await start(data);
  try {
    await handFigures(address);
    await snapshotFigures(address, idSnapshot);
    await rollFigures(address, id64, minutes);
    await equalisedFigures(address, idEqualised, Math.min(minutes, 2));
    await spectrumFigure(address, idEqualised);
    await frameFigures(address, id24, '24 lanes, 100,000 points');
    await sixtyFourFigures(address, id64);
    await stopFigure(address, id24);
    await mendFigures(address, idMended);
  } finally {
    server.kill();
    if (existsSync(data)) rmSync(data, { recursive: true, force: true });
  }
}
