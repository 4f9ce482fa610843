import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PACKED_TYPE, packed, readSong, unpacked } from '../../core/dist/formats/index.js';
import { makeApp } from '../../server/dist/index.js';
import { SongStore } from '../../server/dist/songs/songStore.js';
import { root } from '../lib.mjs';
import { denseSong, waves } from './denseSong.mjs';
import { editSizes } from './editSizes.mjs';
import { figure, median } from './figures.mjs';
import { requestSizes } from './requestSizes.mjs';
import { yearPageFigures } from './yearPage.mjs';

const PASSES = 1000;
const LANES = 8;
const POINTS = 3000;
/** A time and a value as float64, and what shape. */
const POINT_BYTES = 17;
const LENGTH = 360;

/** A pass over all lanes for the whole song. */
function pass(n) {
  const span = [0, LENGTH];
  const all = Array.from({ length: LANES }, (_, k) => ({
    control: `t${k}/level`,
    layer: 'base',
    span,
    points: waves(POINTS, n * LANES + k, LENGTH),
  }));
  const lanes = all.map(({ control, layer }) => ({
    control,
    layer,
    spans: [span],
    moves: POINTS,
    points: POINTS,
    maxDeviation: 0,
    clamped: [],
  }));
  return { kind: 'pass', receipt: { lap: 0, from: 0, to: LENGTH, lanes, refused: [], rested: [] }, pieces: all };
}

const timed = async (act) => {
  const began = performance.now();
  const result = await act();
  return { ms: performance.now() - began, result };
};

/** A song of a year: a thousand passes over eight lanes. `passes`: of fewer where it is only tried. */
export async function sizeFigures(passes = PASSES) {
  editSizes();
  const data = mkdtempSync(join(tmpdir(), 'sure-hand-sizes-'));
  const webFolder = join(root, 'web/dist');
  const settings = { host: '127.0.0.1', port: 0, dataFolder: data, webFolder };
  let app = await makeApp(settings);
  const listen = async () => {
    await app.listen(0, '127.0.0.1');
    return app.getUrl();
  };
  let address = await listen();
  const ask = async (path, body) => {
    const answer = await fetch(`${address}/api/songs${path}`, {
      method: body ? 'POST' : 'GET',
      headers: { Accept: PACKED_TYPE, 'Content-Type': body?.edit ? PACKED_TYPE : 'application/json' },
      ...(body ? { body: body.edit ? packed(body) : JSON.stringify(body) } : {}),
    });
    const bytes = new Uint8Array(await answer.arrayBuffer());
    const isPacked = answer.headers.get('Content-Type') === PACKED_TYPE;
    const document = isPacked ? unpacked(bytes) : JSON.parse(new TextDecoder().decode(bytes));
    return { status: answer.status, bytes: bytes.length, body: document };
  };
  try {
    const channels = Array.from({ length: LANES }, (_, i) => ({ key: `t${i}`, kind: 'track', mode: 'touch' }));
    const read = readSong({ format: 'sure-hand-song', version: 1, name: 'A year', length: LENGTH, channels });
    const id = await app.get(SongStore).create(read.value);
    const kept = [];
    for (let n = 0; n < passes; n++) {
      const { ms, result } = await timed(() =>
        ask(`/${id}/edits`, { revision: n, edit: pass(n), key: `pass-${n}`, brief: true }),
      );
      if (result.status !== 201) throw new Error(JSON.stringify(result.body));
      kept.push(ms);
    }
    const of = `${passes} passes × ${LANES} lanes × ${POINTS} points`;
    figure({
      name: `a pass kept in a song of ${of}`,
      value: median(kept.slice(-50)),
      unit: 'ms',
      must: 250,
      better: 'less',
      note: 'sent packed, answered',
    });
    await app.close();
    const bytes = statSync(join(data, 'sure-hand.sqlite')).size;
    figure({
      ...{ name: 'its database, for each byte of its points', value: bytes / (passes * LANES * POINTS * POINT_BYTES) },
      ...{ unit: '×', must: 1.2, better: 'less', note: `${(bytes / 1e6).toFixed(0)} MB` },
    });
    app = await makeApp(settings);
    address = await listen();
    const opened = await timed(async () => [await ask(`/${id}`), await ask(`/${id}/passes`)]);
    figure({
      name: 'it is opened by a server just started, with its log',
      value: opened.ms,
      unit: 'ms',
      must: 1500,
      better: 'less',
      note: 'song and passes answered',
    });
    const listed = await timed(() => ask(''));
    figure({ name: 'the list of songs with it', value: listed.ms, unit: 'ms', must: 200, better: 'less' });
    const stale = await timed(() => ask(`/${id}/changes?since=0`));
    figure({
      name: 'a stale answer there',
      value: stale.result.bytes / 1e6,
      unit: 'MB',
      must: 1,
      better: 'less',
      note: `in ${stale.ms.toFixed(0)} ms`,
    });
    let revision = passes;
    const undone = [];
    for (const which of ['undo', 'redo', 'undo', 'redo', 'undo', 'redo']) {
      const { ms, result } = await timed(() => ask(`/${id}/${which}`, { revision }));
      if (result.status !== 200) throw new Error(JSON.stringify(result.body));
      revision = result.body.revision;
      undone.push(ms);
    }
    figure({
      name: 'undo there',
      value: median(undone),
      unit: 'ms',
      must: 200,
      better: 'less',
      note: 'of a pass over all lanes',
    });
    const who = await timed(() => ask(`/${id}/origin?control=t3/level&layer=base&t=100`));
    if (who.result.body.origin.number !== passes) throw new Error(JSON.stringify(who.result.body).slice(0, 200));
    figure({ name: 'who wrote it there', value: who.ms, unit: 'ms', must: 200, better: 'less' });
    const copied = await timed(() => ask(`/${id}/duplicate`, {}));
    if (copied.result.status !== 201) throw new Error(JSON.stringify(copied.result.body));
    figure({
      name: 'it is duplicated',
      value: copied.ms,
      unit: 'ms',
      must: 3000,
      better: 'less',
      note: 'with its log',
    });
    await requestSizes(address, { id, copy: copied.result.body.id, passes });
    const dense = await app.get(SongStore).create(denseSong());
    const comeFirst = async (n) => {
      ({ revision } = (await ask(`/${id}/revision`)).body);
      for (let k = 0; k < n; k++) {
        const edit = pass(passes + k);
        const { status, body } = await ask(`/${id}/edits`, { revision, edit, key: `late-${revision}`, brief: true });
        if (status !== 201) throw new Error(JSON.stringify(body));
        revision = body.revision;
      }
    };
    await yearPageFigures(address, { year: id, dense, passes, comeFirst });
  } finally {
    await app.close();
    rmSync(data, { recursive: true, force: true });
  }
}
