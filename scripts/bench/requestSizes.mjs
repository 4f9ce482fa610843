import { PACKED_TYPE } from '../../core/dist/formats/index.js';
import { figure, median } from './figures.mjs';

const TIMES = 5;
/** What an answer may take in ms, and where more is asked of one: what reads, copies or writes all of a song or its log. */
const MUST_MS = 200;
const MORE_MS = { 'GET /api/songs/{id}/zip': 1500, 'POST /api/songs/zip': 3000, 'POST /api/songs/{id}/prune': 3000 };
/** Routes to what is not of a song's automation: files as they lie there, and what was begun. */
const OF_FILES = /\/(audio|files|peaks)\/|\/file$|\/jobs\/\{/;

/** What a part of a path or a query is, of the song that is asked about. */
const fillings = (id, passes) => ({
  ...{ id, number: passes, control: 't3/level', layer: 'base', t: 100, keep: 50, since: passes - 1, most: 200 },
});

/** Asks one route; how long until the answer is there whole, its size in bytes, and what it says. */
async function asked(address, method, path, body) {
  const began = performance.now();
  const isZip = body instanceof Uint8Array;
  const type = body ? { 'Content-Type': isZip ? 'application/zip' : 'application/json' } : {};
  // As a page asks: what is long comes packed.
  const accept = method === 'GET' ? { Accept: PACKED_TYPE } : {};
  const answer = await fetch(`${address}${path}`, {
    method,
    headers: { ...accept, ...type },
    ...(body ? { body: isZip ? body : JSON.stringify(body) } : {}),
  });
  const bytes = new Uint8Array(await answer.arrayBuffer());
  const ms = performance.now() - began;
  if (!answer.ok)
    throw new Error(`${method} ${path}: ${answer.status} ${new TextDecoder().decode(bytes.subarray(0, 300))}`);
  return { ms, bytes };
}

function say(route, runs, bytes) {
  const must = MORE_MS[route] ?? MUST_MS;
  const note = bytes === undefined ? '' : `${(bytes / 1e6).toFixed(2)} MB`;
  figure({ name: `${route} of it`, value: median(runs), unit: 'ms', must, better: 'less', note });
}

/** The job that a request began, once it has ended. */
async function ended(address, { bytes }) {
  const { id } = JSON.parse(new TextDecoder().decode(bytes));
  for (;;) {
    const job = await (await fetch(`${address}/api/jobs/${id}`)).json();
    if (job.state === 'done') return job;
    if (job.state !== 'working') throw new Error(JSON.stringify(job));
    await new Promise((done) => setTimeout(done, 5));
  }
}

/** Every request there is about a song, of one with very many passes (`id`), and of a copy of it that may be spoiled (`copy`). */
export async function requestSizes(address, { id, copy, passes }) {
  const { paths } = await (await fetch(`${address}/api/docs-json`)).json();
  const known = fillings(id, passes);
  let zip = null;
  for (const [path, { get }] of Object.entries(paths)) {
    if (!get || OF_FILES.test(path)) continue;
    const query = get.parameters
      .filter(({ in: where }) => where === 'query')
      .map(({ name }) => `${name}=${encodeURIComponent(known[name])}`);
    const filled = path.replace(/\{(\w+)\}/g, (_all, name) => known[name]);
    const runs = [];
    for (let k = 0; k < TIMES; k++)
      runs.push(await asked(address, 'GET', `${filled}${query.length ? `?${query.join('&')}` : ''}`));
    const { bytes } = runs[0];
    if (path.endsWith('/zip')) zip = bytes;
    say(
      `GET ${path}`,
      runs.map(({ ms }) => ms),
      bytes.length,
    );
  }
  const keys = Array.from({ length: 1000 }, (_, n) => `pass-${n}`);
  const acts = [
    ['POST', '/api/songs/{id}/kept', { keys }],
    ['PUT', '/api/songs/{id}/passes/{number}', { name: 'The one' }],
    ['DELETE', '/api/songs/{id}'],
    ['POST', '/api/songs/{id}/restore'],
    ['POST', '/api/songs/{id}/prune', { keep: 50 }],
  ];
  for (const [method, path, body] of acts) {
    const filled = path.replace('{id}', copy).replace('{number}', passes);
    say(`${method} ${path}`, [(await asked(address, method, filled, body)).ms]);
  }
  const began = performance.now();
  await ended(address, await asked(address, 'POST', '/api/songs/zip?name=year.zip', zip));
  say('POST /api/songs/zip', [performance.now() - began], zip.length);
}
