import 'reflect-metadata';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { ZipArchive } from 'archiver';
import fc from 'fast-check';
import { PACKED_TYPE, packed, parseSong, readEdit } from '@sure-hand/core/formats';
import { PassRecorder, passState } from '@sure-hand/core/pass';
import { applyEdit, completedEdit, type Edit } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';
import { anySong, draws, editFrom } from '../../core/src/test/anyEdit.js';
import { mutated, mutations } from '../../core/src/test/mutate.js';
import type { StagedStem } from './imports/stagedStems.js';
import type { Job } from './jobs/jobBoard.js';
import type { KeptAnswer, WholeSong } from './songs/songs.controller.js';
import { TestServer } from './test/testServer.js';
import { toneWav } from './test/toneWav.js';

/** How much of each kind is sent: some with every test, ten thousand by `npm run harness`. */
const MUTATIONS = Number(process.env.SURE_HAND_MUTATIONS ?? 60);
/** Nothing here may take this long. */
const HANG_MS = 10_000;
/** Zips take longest: every test opens a share of them. */
const ZIPS = MUTATIONS < 1000 ? Math.ceil(MUTATIONS / 4) : MUTATIONS;
const TIME = 300_000 + MUTATIONS * 100;
/** Nor may it take this much more memory by its end. */
const MOST_MEMORY = 1.5e9;
const REFUSED = [400, 404, 409, 413, 415, 422];

let server: TestServer;
let memory = 0;
beforeEach(async () => {
  memory = process.memoryUsage().rss;
  server = new TestServer();
  await server.start();
});
afterEach(async () => {
  await server.end();
  expect(process.memoryUsage().rss - memory).toBeLessThan(MOST_MEMORY);
});

type Answer = { readonly status: number; readonly json: unknown };
/** Sends anything at all; whatever comes back is a sentence, or what was asked for, and soon. */
async function throwAt(path: string, method: string, body?: BodyInit, type = 'application/json'): Promise<Answer> {
  const answer = await fetch(`${server.address}/api${path}`, {
    method,
    ...(body === undefined ? {} : { body, headers: { 'Content-Type': type } }),
    signal: AbortSignal.timeout(HANG_MS),
  });
  const text = await answer.text();
  const json: unknown = /json/.test(answer.headers.get('Content-Type') ?? '') && text ? JSON.parse(text) : null;
  if (answer.status >= 400) {
    if (!REFUSED.includes(answer.status)) throw new Error(`${answer.status} for ${method} ${path}: ${String(body)}`);
    expect((json as { sentence: string }).sentence).toMatch(/\S.*[.)]$/s);
  }
  return { status: answer.status, json };
}
const asJson = (body: unknown): string => JSON.stringify(body) ?? 'null';
/** As it comes out at the other end: JSON knows no infinity. */
const overTheWire = (body: unknown): unknown => JSON.parse(asJson(body));

/** The song as the server has it, and as it would be saved: readable, and the same. */
async function expectOpenable(id: number): Promise<Song> {
  const { song } = (await throwAt(`/songs/${id}`, 'GET')).json as WholeSong;
  const document = await (await fetch(`${server.address}/api/songs/${id}/document`)).text();
  const read = parseSong(document);
  if (!read.ok) throw new Error(read.sentence);
  expect(overTheWire(read.value)).toEqual(song);
  return read.value;
}

test(
  `${MUTATIONS} mutated edits are refused in a sentence, or kept as a song that can be opened after a new start`,
  async () => {
    let song = anySong();
    const id = await server.create(song);
    let [revision, kept, sent] = [0, 0, 0];
    await fc.assert(
      fc.asyncProperty(draws, mutations, fc.boolean(), async (draw, changes, isWhole) => {
        const edit = overTheWire(isWhole ? editFrom(song, draw) : mutated(editFrom(song, draw), changes));
        const { status, json } = await throwAt(`/songs/${id}/edits`, 'POST', asJson({ revision, edit }));
        const mine = readEdit(song, edit);
        if (status === 201) {
          const answer = json as KeptAnswer;
          expect(mine.ok).toBe(true);
          if (answer.edit) song = applyEdit(song, completedEdit(song, answer.edit)).song;
          kept += answer.revision > revision ? 1 : 0;
          revision = answer.revision;
        } else expect(mine.ok).toBe(false);
        if (++sent % 250 === 0) await server.restart();
        if (sent % 25 === 0) expect(await expectOpenable(id)).toEqual(song);
      }),
      { numRuns: MUTATIONS, endOnFailure: true },
    );
    // Of few it may be none.
    if (MUTATIONS >= 1000) expect(kept).toBeGreaterThan(MUTATIONS / 20);
    await server.restart();
    expect(await expectOpenable(id)).toEqual(song);
    for (;;) {
      const { status, json } = await throwAt(`/songs/${id}/undo`, 'POST', asJson({ revision }));
      if (status !== 200) break;
      ({ revision } = json as KeptAnswer);
    }
    await expectOpenable(id);
  },
  TIME,
);

/** One of each request that takes a body, as a page sends it. */
function requests(id: number, song: Song, staging: string, stem: string): readonly [string, string, unknown][] {
  const recorder = new PassRecorder(song);
  recorder.handle({ do: 'play', from: 2 });
  recorder.handle({ do: 'touch', control: 'voice/level', t: 3 });
  recorder.handle({ do: 'move', control: 'voice/level', value: -12, t: 4 });
  const [pass] = recorder.handle({ do: 'stop', t: 6 }).edits;
  const track = { stem, name: 'Voice', family: 'Voices' };
  return [
    [`/songs/${id}/edits`, 'POST', { revision: 0, edit: pass, key: 'one' }],
    [`/songs/${id}/edits`, 'POST', { revision: 0, edit: { kind: 'title', name: 'Other' } as Edit, key: 'two' }],
    [`/songs/${id}/undo`, 'POST', { revision: 1 }],
    [`/songs/${id}/redo`, 'POST', { revision: 1 }],
    [`/songs/${id}/kept`, 'POST', { keys: ['one', 'two'] }],
    [`/songs/${id}/duplicate`, 'POST', {}],
    [`/songs/${id}/restore`, 'POST', {}],
    [`/songs/${id}/passes/1`, 'PUT', { name: 'Softer', note: 'in the chorus' }],
    [`/songs/${id}/passes/1/loudness`, 'POST', { range: [1, 2] }],
    [
      `/songs/${id}/journals/key`,
      'PUT',
      { seq: 0, events: [{ do: 'play', from: 2 }], at: 3, began: passState(anySong()) },
    ],
    [`/songs/${id}/bounces`, 'POST', { bits: '16', range: [0, 0.1], stems: ['voice'], throughMain: true }],
    ['/imports', 'POST', {}],
    [
      `/imports/${staging}/song`,
      'POST',
      {
        ...{ name: 'Own', sampleRate: 48000, bpm: 100, beats: 4, unit: 4 },
        ...{ sections: [{ t: 0, name: 'Intro' }], tracks: [track] },
      },
    ],
  ];
}
/** Ways to spoil an address. */
const NUMBERS = ['0', '-1', '1e9', '99999999999999999999', 'x', '%00', '..%2f..', '__proto__', '1.5', ''];
const READS = [
  '',
  '/passes',
  '/passes/1',
  '/lane-passes',
  '/lane-passes?control[]=1',
  '/lane-passes?control=__proto__',
];
const READ_MORE = ['/changes', '/changes?since=-1', '/changes?since=1e99', '/audio/..%2f..%2fsure-hand.sqlite'];
const READ_FILES = [
  '/peaks/x.wav',
  '/peaks/%00',
  '/audio/%E0%A4%A',
  '/zip',
  '/bounces',
  '/bounces/1/file',
  '/journals',
];

test(
  `${MUTATIONS} mutated requests are answered with what they ask for, or a sentence; never with a failure`,
  async () => {
    const song = anySong();
    const id = await server.create(song);
    const staging = ((await throwAt('/imports', 'POST', '{}')).json as { id: string }).id;
    const { id: stem } = (
      await throwAt(`/imports/${staging}/stems?name=voice.wav`, 'PUT', new Blob([wav()]), 'audio/wav')
    ).json as StagedStem;
    const all = requests(id, song, staging, stem);
    for (const read of [...READS, ...READ_MORE, ...READ_FILES]) {
      await throwAt(`/songs/${id}${read}`, 'GET');
      for (const number of NUMBERS) await throwAt(`/songs/${number}${read}`, 'GET');
    }
    for (const path of ['/jobs', '/jobs/x', '/jobs/__proto__', '/songs/1/%ff', '/nothing']) await throwAt(path, 'GET');
    await fc.assert(
      fc.asyncProperty(
        fc.nat(all.length - 1),
        mutations,
        fc.constantFrom('mutated', 'mutated', 'mutated', 'cut', 'type', 'address', 'packed'),
        fc.constantFrom(...NUMBERS),
        bytesMutations,
        async (which, changes, how, number, bytes) => {
          const [path, method, body] = all[which]!;
          const text = asJson(how === 'mutated' ? mutated(body, changes) : body);
          if (how === 'packed')
            return void (await throwAt(path, method, new Blob([mutatedBytes(packed(body), bytes)]), PACKED_TYPE));
          if (how === 'cut') return void (await throwAt(path, method, text.slice(0, text.length / 2)));
          if (how === 'type') return void (await throwAt(path, method, text, 'text/plain'));
          const to = how === 'address' ? path.replace(/\/(songs|imports)\/[^/]+/, `/$1/${number}`) : path;
          await throwAt(to, method, text);
        },
      ),
      { numRuns: MUTATIONS, endOnFailure: true },
    );
    await server.restart();
    await expectOpenable(id);
  },
  TIME,
);

/** A short WAV file. */
const wav = (frames = 600): Uint8Array<ArrayBuffer> => new Uint8Array(toneWav({ sec: frames / 48000 }));

/** Bytes, a few of which are changed, most of them at the beginning; or which are cut, or run on. */
const bytesMutations = fc.array(
  fc.record({
    at: fc.oneof(fc.nat(60), fc.nat(4000)),
    to: fc.oneof(fc.constantFrom(0, 1, 2, 255, 254), fc.nat(255)),
    cut: fc.oneof({ weight: 8, arbitrary: fc.constant(false) }, { weight: 1, arbitrary: fc.constant(true) }),
  }),
  { minLength: 1, maxLength: 6 },
);
type BytesChange = { readonly at: number; readonly to: number; readonly cut: boolean };
function mutatedBytes(bytes: Uint8Array, changes: readonly BytesChange[]): Uint8Array<ArrayBuffer> {
  let copy = new Uint8Array(bytes);
  for (const { at, to, cut } of changes)
    if (cut) copy = copy.slice(0, at);
    else if (at < copy.length) copy[at] = to;
  return copy;
}

test(
  `${MUTATIONS} mutated WAV files are taken as sound or refused in a sentence`,
  async () => {
    let { id } = (await throwAt('/imports', 'POST', '{}')).json as { id: string };
    const tracks: object[] = [];
    let count = 0;
    await fc.assert(
      fc.asyncProperty(bytesMutations, async (changes) => {
        const body = new Blob([mutatedBytes(wav(), changes)]);
        const path = `/imports/${id}/stems?name=voice.wav`;
        const { json } = await throwAt(path, 'PUT', body, 'application/octet-stream');
        const stem = json as StagedStem;
        if (stem.sentence === null && tracks.length < 30) tracks.push({ stem: stem.id, name: 'V', family: 'F' });
        else expect(stem.sentence ?? 'Taken.').toMatch(/[.)]$/);
        // Whether a song can be made of those that were taken, from time to time.
        if (++count % 50 || !tracks.length) return;
        const own = { name: 'Own', sampleRate: 44100, bpm: 100, beats: 4, unit: 4, tracks: tracks.splice(0) };
        const job = await ended((await throwAt(`/imports/${id}/song`, 'POST', asJson(own))).json as Job);
        expect(job.sentence ?? 'None.').toMatch(/[.)]$/);
        expect(job.sentence ?? 'None.').not.toMatch(/server failed/);
        if (job.songId) await expectOpenable(job.songId);
        id = ((await throwAt('/imports', 'POST', '{}')).json as { id: string }).id;
      }),
      { numRuns: MUTATIONS, endOnFailure: true },
    );
  },
  TIME,
);

async function ended({ id }: Pick<Job, 'id'>): Promise<Job> {
  const until = Date.now() + HANG_MS;
  for (;;) {
    const job = (await throwAt(`/jobs/${id}`, 'GET')).json as Job;
    if (job.state !== 'working') return job;
    if (Date.now() > until) throw new Error(`Job ${job.name} hangs`);
    await new Promise((again) => setTimeout(again, 5));
  }
}

async function zipOf(document: unknown): Promise<Uint8Array> {
  const zip = new ZipArchive({});
  const chunks: Uint8Array[] = [];
  zip.on('data', (chunk: Uint8Array) => chunks.push(chunk));
  zip.append(asJson(document), { name: 'song.json' });
  zip.append(Buffer.from(wav()), { name: 'voice.wav' });
  await zip.finalize();
  return new Uint8Array(Buffer.concat(chunks));
}

test(
  `${ZIPS} mutated documents and zips are refused in a sentence, or opened as a song that can be saved and opened again`,
  async () => {
    let [opened, count] = [0, 0];
    await fc.assert(
      fc.asyncProperty(mutations, bytesMutations, fc.nat(2), async (changes, bytesChanges, how) => {
        const document = how === 0 ? anySong() : mutated(anySong(), changes);
        const zip = await zipOf(document);
        const bytes = how === 0 ? mutatedBytes(zip, bytesChanges) : new Uint8Array(zip);
        const { status, json } = await throwAt(
          '/songs/zip?name=song.zip',
          'POST',
          new Blob([bytes]),
          'application/zip',
        );
        expect(status).toBe(201);
        const job = await ended(json as Job);
        expect(job.sentence ?? 'None.').toMatch(/[.)]$/);
        expect(job.sentence ?? 'None.').not.toMatch(/server failed/);
        if (job.state === 'failed') return;
        opened++;
        if (!job.songId) return;
        await expectOpenable(job.songId);
        await throwAt(`/songs/${job.songId}`, 'DELETE');
        if (++count % 100 === 0) await throwAt('/songs', 'GET');
      }),
      { numRuns: ZIPS, endOnFailure: true },
    );
    if (ZIPS >= 1000) expect(opened).toBeGreaterThan(ZIPS / 40);
    await throwAt('/songs', 'GET');
  },
  TIME,
);
