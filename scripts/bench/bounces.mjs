import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { SongFiles, bounceToFile, writeWav } from '../../audio-files/dist/index.js';
import { readSong } from '../../core/dist/formats/index.js';
import { bounce, mixPlan } from '../../core/dist/mix/index.js';
import { CHROMIUM, FFMPEG } from '../lib.mjs';
import { chance, equaliserLanes, ridePoints } from './core.mjs';
import { figure, median } from './figures.mjs';

// The mix that is bounced: 24 tracks of 3 minutes, every level and pan a curve, each track sent to one of 3 returns.
const MIX = { tracks: 24, returns: 3, length: 180, rate: 48000, files: 8, every: 0.5 };
const RUNS = 3;

/**
 * The song of the mix; `effects`: what the returns have inserted, or null where they only sum, as those it is paired with do. `equalised`:
 * each track has a four-band equaliser, all of it moving.
 */
function mixSong(effects, equalised = false) {
  const { tracks, returns, length, rate, files, every } = MIX;
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    sampleRate: rate,
    length,
    channels: [
      ...Array.from({ length: tracks }, (_, i) => ({
        key: `t${i}`,
        kind: 'track',
        clips: [{ file: `f${i % files}.wav` }],
        sends: [{ bus: `r${i % returns}`, tap: 'post', pan: 'follow' }],
        inserts: equalised ? [{ slot: 'eq', effect: 'equaliser' }] : [],
      })),
      ...Array.from({ length: returns }, (_, i) => ({
        key: `r${i}`,
        kind: 'bus',
        inserts: effects ? [{ slot: 'own', effect: effects[i] }] : [],
      })),
    ],
    lanes: Object.fromEntries(
      Array.from({ length: tracks }, (_, i) => [
        [`t${i}/level`, { points: ridePoints(length, every, i + 1) }],
        [`t${i}/pan`, { points: ridePoints(length, every, i + 100, -1, 1) }],
        [`t${i}/send/r${i % returns}/level`, { rest: -12 }],
        ...(equalised ? equaliserLanes(`t${i}`, length, every, i + 1) : []),
      ]).flat(),
    ),
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}

/** Times real time, the middle of some runs. */
function speedOf(act) {
  const runs = [];
  for (let k = 0; k < RUNS; k++) {
    const began = performance.now();
    act();
    runs.push((MIX.length * 1000) / (performance.now() - began));
  }
  return median(runs);
}

function inMemory(song, columns) {
  const plan = mixPlan(song);
  const source = {
    channels: () => 1,
    read(file, _channel, from, count, out, at) {
      out.set(columns[file].subarray(from, from + count), at);
      return true;
    },
  };
  return speedOf(() => bounce(plan, source, [0, plan.length], () => undefined));
}

/** Read from files and written to one, as ffmpeg does it, nothing measured on the way. */
function filesToFile(song, folder) {
  const plan = mixPlan(song);
  return speedOf(() => {
    const audio = new SongFiles(folder, plan.files, plan.sampleRate);
    const to = { format: 'int24', channels: 2, sampleRate: plan.sampleRate, most: plan.length };
    writeWav(join(folder, 'ours.wav'), to, (add) =>
      bounce(plan, audio, [0, plan.length], (left, right, count) => add([left, right], count)),
    );
    audio.close();
  });
}

/** The same mix by ffmpeg's own filters on one thread; all that moves in ours stands still in it, which is the lighter work. */
function byFfmpeg(folder, equalised) {
  const { tracks, returns, files } = MIX;
  const inputs = Array.from({ length: tracks }, (_, i) => ['-i', join(folder, `f${i % files}.wav`)]).flat();
  const bands = [100, 400, 2500, 8000].map((hz, n) => `equalizer=f=${hz}:t=q:w=1.2:g=${n % 2 ? -4 : 5},`).join('');
  const chain = (i) =>
    `[${i}:a]${equalised ? bands : ''}volume=${(0.2 + i / 100).toFixed(2)},pan=stereo|c0=${(0.4 + i / 60).toFixed(3)}*c0|c1=${(0.8 - i / 60).toFixed(3)}*c0,asplit[d${i}][s${i}]`;
  const graph = [
    ...Array.from({ length: tracks }, (_, i) => chain(i)),
    ...Array.from({ length: returns }, (_, r) => {
      const own = Array.from({ length: tracks }, (_, i) => i).filter((i) => i % returns === r);
      return `${own.map((i) => `[s${i}]`).join('')}amix=inputs=${own.length}:normalize=0,volume=0.25[r${r}]`;
    }),
    `${Array.from({ length: tracks }, (_, i) => `[d${i}]`).join('')}${Array.from({ length: returns }, (_, r) => `[r${r}]`).join('')}amix=inputs=${tracks + returns}:normalize=0[out]`,
  ].join(';');
  const one = ['-threads', '1', '-filter_threads', '1', '-filter_complex_threads', '1'];
  const args = [
    '-y',
    '-loglevel',
    'error',
    ...one,
    ...inputs,
    '-filter_complex',
    graph,
    '-map',
    '[out]',
    '-c:a',
    'pcm_s24le',
    join(folder, 'ffmpeg.wav'),
  ];
  return speedOf(() => execFileSync(FFMPEG, args));
}

/** The same mix by the browser's offline graph: gains, panners and bands that follow curves as ours do, audio in memory. */
async function byBrowser(equalised) {
  const browser = await chromium.launch({
    executablePath: CHROMIUM,
    args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
  });
  try {
    const page = await browser.newPage();
    return await page.evaluate(
      async ({ tracks, returns, length, rate, every, runs, equalised }) => {
        const noise = Array.from({ length: 8 }, () => {
          const buffer = new AudioBuffer({ length: length * rate, sampleRate: rate });
          const data = buffer.getChannelData(0);
          for (let i = 0; i < data.length; i++) data[i] = Math.random() - 0.5;
          return buffer;
        });
        const speeds = [];
        for (let k = 0; k < runs; k++) {
          const context = new OfflineAudioContext(2, length * rate, rate);
          const buses = Array.from({ length: returns }, () => new GainNode(context));
          for (const bus of buses) bus.connect(context.destination);
          for (let i = 0; i < tracks; i++) {
            const source = new AudioBufferSourceNode(context, { buffer: noise[i % 8] });
            const level = new GainNode(context, { gain: 0.5 });
            const pan = new StereoPannerNode(context);
            const send = new GainNode(context, { gain: 0.25 });
            const bands = equalised
              ? ['lowshelf', 'peaking', 'peaking', 'highshelf'].map((type) => new BiquadFilterNode(context, { type }))
              : [];
            for (let t = 0; t < length; t += every) {
              bands.forEach((band, n) => {
                band.frequency.linearRampToValueAtTime(60 * 3 ** (n + 1) * (1 + 2 * Math.random()), t);
                band.gain.linearRampToValueAtTime(24 * Math.random() - 12, t);
                band.Q.linearRampToValueAtTime(0.4 + 3.6 * Math.random(), t);
              });
              level.gain.linearRampToValueAtTime(0.3 + 0.2 * Math.random(), t);
              pan.pan.linearRampToValueAtTime(2 * Math.random() - 1, t);
            }
            bands
              .reduce((from, to) => from.connect(to), source)
              .connect(level)
              .connect(pan)
              .connect(context.destination);
            pan.connect(send).connect(buses[i % returns]);
            source.start();
          }
          const began = performance.now();
          await context.startRendering();
          speeds.push((length * 1000) / (performance.now() - began));
        }
        return speeds.sort((a, b) => a - b)[runs >> 1];
      },
      { ...MIX, runs: RUNS, equalised },
    );
  } finally {
    await browser.close();
  }
}

/** A mix from files to a file, beside ffmpeg's. */
function againstFfmpeg(what, song, folder, equalised) {
  const ffmpeg = byFfmpeg(folder, equalised);
  const ours = filesToFile(song, folder);
  const measured = speedOf(() =>
    bounceToFile({ song, folder, out: join(folder, 'ours.wav'), format: 'int24', range: null }),
  );
  figure({
    name: `${what}, files to file, against ffmpeg’s`,
    value: ours / ffmpeg,
    unit: '×',
    must: 1.5,
    aim: 5,
    better: 'more',
    note: `${ours.toFixed(1)} × against ${ffmpeg.toFixed(1)} × real time (one thread; nothing moves in its); with our loudness and true peak ${measured.toFixed(1)} ×`,
  });
}

/** A mix beside the browser's own. */
async function againstBrowser(what, ours, equalised) {
  const browser = await byBrowser(equalised);
  figure({
    name: `${what} against the browser’s own offline graph`,
    value: ours / browser,
    unit: '×',
    must: 3,
    aim: 12,
    better: 'more',
    note: `${ours.toFixed(1)} × against ${browser.toFixed(1)} × real time`,
  });
}

export async function bounceFigures() {
  const { length, rate, files, tracks, returns } = MIX;
  const folder = mkdtempSync(join(tmpdir(), 'sure-hand-bounces-'));
  try {
    const random = chance(3);
    const columns = Array.from({ length: files }, () =>
      Float32Array.from({ length: length * rate }, () => random() - 0.5),
    );
    columns.forEach((column, i) =>
      writeWav(
        join(folder, `f${i}.wav`),
        { format: 'int16', channels: 1, sampleRate: rate, most: column.length },
        (add) => add([column], column.length),
      ),
    );
    const song = mixSong(null);
    const ours = inMemory(song, columns);
    const what = `${tracks} tracks × 3 min, all levels and pans automated, ${returns} returns`;
    figure({
      name: `bounce, ${what}, no inserts`,
      value: ours,
      unit: '× real time',
      must: 50,
      aim: 200,
      better: 'more',
      note: 'one core, audio in memory; the returns only sum',
    });
    figure({
      name: 'the same with an effect on each return',
      value: inMemory(mixSong(['reverb', 'delay', 'chorus']), columns),
      unit: '× real time',
      better: 'more',
      note: 'reverb, delay, chorus',
    });
    const equalised = mixSong(null, true);
    const oursEqualised = inMemory(equalised, columns);
    figure({
      name: 'the same with a four-band equaliser on each track',
      value: oursEqualised,
      unit: '× real time',
      must: 25,
      aim: 100,
      better: 'more',
      note: 'all twelve parameters of each move all the time; the returns only sum',
    });
    againstFfmpeg('the same mix', song, folder, false);
    againstFfmpeg('the mix with equalisers', equalised, folder, true);
    await againstBrowser('the same mix', ours, false);
    await againstBrowser('the mix with equalisers', oursEqualised, true);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
