import { spawn } from 'node:child_process';
import { cpSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { readSong } from '../../core/dist/formats/index.js';
import { makeApp } from '../../server/dist/index.js';
import { SongStore } from '../../server/dist/songs/songStore.js';
import { root } from '../lib.mjs';
import { equaliserLanes, ridePoints } from './core.mjs';

/** Starts the real server on a data folder; resolves as it says where it is. */
export function start(data) {
  const server = spawn(process.execPath, [join(root, 'scripts/start.mjs')], {
    env: { ...process.env, PORT: '0', SURE_HAND_DATA: data },
  });
  let text = '';
  return new Promise((done, fail) => {
    server.stdout.on('data', (chunk) => {
      text += chunk;
      const at = /Sure Hand is at (\S+)/.exec(text);
      if (at) done({ server, address: at[1], said: () => text });
    });
    server.stderr.on('data', (chunk) => (text += chunk));
    server.on('exit', () => fail(new Error(text)));
  });
}

/**
 * A song of many tracks, its clips out of the demo’s files, its lanes full of points; the first `touched` in touch. `equalised`: each has a
 * four-band equaliser, all of it moving.
 */
export async function bigSong(data, { tracks, length, points, touched = 1, equalised = false }) {
  const demo = join(data, 'songs/1');
  const app = await makeApp({ host: '127.0.0.1', port: 0, dataFolder: data, webFolder: null });
  await app.init();
  const files = readdirSync(demo).filter((name) => name.endsWith('.wav'));
  const perLane = Math.floor(points / tracks / 2);
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    name: `${tracks} tracks`,
    length,
    channels: Array.from({ length: tracks }, (_, i) => ({
      key: `t${i}`,
      kind: 'track',
      name: `Track ${i + 1}`,
      family: `Family ${1 + (i >> 3)}`,
      mode: i < touched ? 'touch' : 'read',
      inserts: equalised ? [{ slot: 'eq', effect: 'equaliser' }] : [],
      clips: Array.from({ length: Math.ceil(length / 30) }, (_, k) => ({
        t: k * 30,
        file: files[i % files.length],
        length: Math.min(30, length - k * 30),
      })),
    })),
    lanes: Object.fromEntries(
      Array.from({ length: tracks }, (_, i) => [
        [`t${i}/level`, { rest: -20, points: ridePoints(length, length / perLane, i + 1, -40, -10) }],
        [`t${i}/pan`, { points: ridePoints(length, length / perLane, i + 200, -1, 1) }],
        ...(equalised ? equaliserLanes(`t${i}`, length, 0.5, i + 1) : []),
      ]).flat(),
    ),
  });
  const id = await app.get(SongStore).create(read.value);
  await app.close();
  cpSync(demo, join(data, 'songs', String(id)), { recursive: true });
  return id;
}
