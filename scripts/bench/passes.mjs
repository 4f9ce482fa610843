import { PassRecorder } from '../../core/dist/pass/index.js';
import { PACKED_TYPE, packed, readSong, unpacked } from '../../core/dist/formats/index.js';
import { makeApp } from '../../server/dist/index.js';
import { SongStore } from '../../server/dist/songs/songStore.js';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { figure, median } from './figures.mjs';

/** Stop to stored: 20 lanes ridden for five minutes at 60 moves a second, committed, sent, kept. */
export async function passFigures() {
  const data = mkdtempSync(join(tmpdir(), 'sure-hand-bench-'));
  const app = await makeApp({ host: '127.0.0.1', port: 0, dataFolder: data, webFolder: null });
  try {
    await app.listen(0, '127.0.0.1');
    const address = await app.getUrl();
    const length = 310;
    const read = readSong({
      format: 'sure-hand-song',
      version: 1,
      length,
      channels: Array.from({ length: 20 }, (_, i) => ({ key: `t${i}`, kind: 'track', mode: 'touch' })),
    });
    const id = await app.get(SongStore).create(read.value);
    const commits = [];
    const stores = [];
    let song = read.value;
    let points = 0;
    for (let k = 0; k < 3; k++) {
      const recorder = new PassRecorder(song);
      recorder.handle({ do: 'play', from: 0 });
      for (let i = 0; i < 20; i++) recorder.handle({ t: 0, do: 'touch', control: `t${i}/level` });
      for (let t = 0, n = 0; t < 300; t = ++n / 60)
        for (let i = 0; i < 20; i++)
          recorder.handle({
            t,
            do: 'move',
            control: `t${i}/level`,
            value: -8 + 6 * Math.sin(t * (0.5 + i / 20)) + Math.sin(t * 7 + i),
          });
      // What the connection has to do after so long a ride is done before.
      await new Promise((done) => setTimeout(done, 50));
      const began = performance.now();
      const { edits, receipts } = recorder.handle({ t: 300, do: 'stop' });
      const committed = performance.now();
      const answer = await fetch(`${address}/api/songs/${id}/edits`, {
        method: 'POST',
        headers: { Accept: PACKED_TYPE, 'Content-Type': PACKED_TYPE },
        body: packed({ revision: k, edit: edits[0], brief: true }),
      });
      if (answer.status !== 201) throw new Error(await answer.text());
      unpacked(new Uint8Array(await answer.arrayBuffer()));
      commits.push(committed - began);
      stores.push(performance.now() - began);
      points = receipts[0].lanes.reduce((sum, lane) => sum + lane.points, 0);
      song = recorder.song;
    }
    figure({
      name: 'stop → pass committed and stored, 20 lanes × 5 min',
      value: median(stores),
      unit: 'ms',
      must: 500,
      aim: 150,
      better: 'less',
      note: `360,000 moves, ${points} points kept; of it ${median(commits).toFixed(0)} ms thinning and commit, in Node, the server in the same process`,
    });
  } finally {
    await app.close();
    rmSync(data, { recursive: true, force: true });
  }
}
