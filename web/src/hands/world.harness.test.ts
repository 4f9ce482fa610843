import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { valueAt } from '@sure-hand/core/curve';
import { FrameEncoder, PACKED_TYPE, unpacked, wavHeader } from '@sure-hand/core/formats';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import {
  MODES,
  controlOf,
  controlsOf,
  guardOn,
  isSwitch,
  laneOf,
  layerLaw,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { valueOf } from '@sure-hand/core/units';
import type { Job, ListedSong, Stale, StagedStem, WholeSong } from '@sure-hand/server';
import { seeded } from '../../../server/src/test/seeded.js';
import { ServerProcess } from '../../../server/src/test/serverProcess.js';
import { findCutShort } from '../song/passJournal.js';
import { SmallBrowser, SmallPage } from '../test/smallPage.js';

/** How many worlds are gone through: some with every test, a hundred by `npm run harness`. */
const WORLDS = Number(process.env.SURE_HAND_WORLDS ?? 2);
const SEED = Number(process.env.SURE_HAND_SEED ?? 20261127);
const STEPS = 60;
const LENGTH = 20;
/** The server takes a journal for left once nobody has written to it for so long. */
const LEFT_MS = 2700;

const data = mkdtempSync(join(tmpdir(), 'sure-hand-world-'));
const server = new ServerProcess(data);
const far = globalThis.fetch;

/** What becomes of the next requests: they come through, or do not, or their answer is lost, or the server fails at them. */
const weather = { kind: 'fair' as 'fair' | 'away' | 'lost' | 'fault', requests: 0 };
globalThis.fetch = (async (path: string, init?: RequestInit) => {
  const kind = weather.requests > 0 ? weather.kind : 'fair';
  weather.requests--;
  if (kind === 'away' || !server.isUp) throw new TypeError('fetch failed');
  if (kind === 'fault') return new Response('{"sentence":"The server failed at this."}', { status: 500 });
  const answer = await far(`${server.address}${path}`, init);
  const bytes = await answer.arrayBuffer();
  if (kind === 'lost') throw new TypeError('terminated');
  return new Response(bytes.byteLength ? bytes : null, { status: answer.status, headers: answer.headers });
}) as typeof fetch;

async function api<T>(path: string, body?: object | Uint8Array, method = body ? 'POST' : 'GET'): Promise<T> {
  const isBytes = body instanceof Uint8Array;
  const headers = { Accept: PACKED_TYPE, ...(body && !isBytes ? { 'Content-Type': 'application/json' } : {}) };
  const sent = isBytes ? new Blob([new Uint8Array(body)]) : JSON.stringify(body);
  const answer = await far(`${server.address}/api${path}`, { method, headers, ...(body ? { body: sent } : {}) });
  if (!answer.ok) throw new Error(await answer.text());
  const bytes = new Uint8Array(await answer.arrayBuffer());
  return (bytes.length ? unpacked(bytes) : null) as T;
}

/** A song of four silent stems, that all worlds are copies of. */
async function makeSong(): Promise<number> {
  const frames = 8000 * LENGTH;
  const bytes = new FrameEncoder('int16', false).encode([new Float32Array(frames)], frames);
  const stem = Buffer.concat([wavHeader('int16', 1, 8000, frames), bytes]);
  const { id } = await api<{ id: string }>('/imports', {});
  const tracks = [];
  for (const name of ['Lead', 'Fiddle', 'Organ', 'Drum'])
    tracks.push({
      stem: (await api<StagedStem>(`/imports/${id}/stems?name=${name}.wav`, stem, 'PUT')).id,
      name,
      family: 'All',
    });
  const asked = { name: 'World', sampleRate: 8000, bpm: 120, beats: 4, unit: 4, tracks };
  let job = await api<Job>(`/imports/${id}/song`, asked);
  while (job.state === 'working') {
    await new Promise((tick) => setTimeout(tick, 20));
    job = await api<Job>(`/jobs/${job.id}`);
  }
  return job.songId!;
}

let first = 0;
beforeAll(async () => {
  writeFileSync(join(data, 'demo-made'), '');
  await server.start();
  first = await makeSong();
});
afterAll(async () => {
  globalThis.fetch = far;
  await server.kill();
  rmSync(data, { recursive: true, force: true });
});

/** A guard that went on while a song rolled here: from then on nothing of that lap may write the control. */
type Heard = { readonly lap: number; readonly control: ControlId; readonly t: number };

/** A rider and a meddler at one song, with a server that comes and goes. */
class World {
  rider!: SmallPage;
  meddler!: SmallPage;
  readonly browser = new SmallBrowser();
  readonly pages: SmallPage[] = [];
  /** Guards that went on in mid-pass, by the page's roll. */
  #heard: Heard[] = [];
  readonly heardBy = new Map<string, readonly Heard[]>();
  /** Passes that were cut off by a crash, or whose page was gone before they could be handed over. */
  readonly cut = new Set<string>();
  #controls: readonly ControlId[] = [];
  kills = 0;

  constructor(
    readonly id: number,
    readonly chance: () => number,
  ) {}

  pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.chance() * list.length)]!;
  }

  async newRider(): Promise<void> {
    this.rider = await this.#newPage(this.browser);
    this.#controls = [...controlsOf(this.rider.state.song!).keys()];
    this.#heard = [];
    const { rider } = this;
    rider.onAdopt = (song) => {
      const before = rider.session.recorder.song;
      if (!rider.session.isRolling) return;
      const lap = rider.session.recorder.roll!.lap;
      for (const control of this.#controls)
        if (guardOn(song, control) && !guardOn(before, control)) this.#heard.push({ lap, control, t: rider.engine.t });
    };
  }

  async #newPage(browser: SmallBrowser): Promise<SmallPage> {
    const page = new SmallPage(browser, this.id);
    this.pages.push(page);
    await page.open();
    return page;
  }

  async begin(): Promise<void> {
    this.meddler = await this.#newPage(new SmallBrowser());
    this.meddle({ kind: 'settings', changes: { loop: this.chance() < 0.4 ? [4, 7] : null } });
    for (const channel of this.meddler.state.song!.channels)
      this.meddle({ kind: 'channel', channel: channel.key, changes: { mode: this.pick(MODES) } });
    await this.meddler.sync.flush();
    await this.newRider();
  }

  meddle(edit: Edit): void {
    this.meddler.sync.make(edit);
  }

  /** What somebody else does at any moment: guards, modes, curves, undo. */
  async meddleAtRandom(): Promise<void> {
    const { chance } = this;
    const { song } = this.meddler.state;
    // Mostly what is being written just now.
    const writing = this.rider.session.recorder.roll?.takes.filter((take) => take.isOpen) ?? [];
    const control = writing.length && chance() < 0.7 ? this.pick(writing).control : this.pick(this.#controls);
    const { channel } = controlOf(song!, control);
    const on = chance() < 0.6;
    const pick = Math.floor(chance() * 9);
    if (pick <= 1) this.meddle({ kind: 'guard', control, changes: { safe: on } });
    else if (pick === 2) this.meddle({ kind: 'guard', control, changes: { parked: on } });
    else if (pick === 3)
      this.meddle({ kind: 'channel', channel, changes: { safe: on ? [controlOf(song!, control).kind] : [] } });
    else if (pick === 4) this.meddle({ kind: 'channel', channel, changes: { mode: this.pick(MODES) } });
    else if (pick === 5) this.meddle({ kind: 'channel', channel, changes: { trim: on, parked: chance() < 0.1 } });
    else if (pick === 6) this.meddle({ kind: 'title', name: `World ${Math.floor(chance() * 1000)}` });
    else await this.meddler.sync.step(pick === 7 ? 'undo' : 'redo');
    if (chance() < 0.7) await this.meddler.sync.flush();
    if (chance() < 0.7) await this.rider.sync.catchUp();
  }

  ride(): Promise<void> | void {
    const { session } = this.rider;
    const control = this.pick(this.#controls);
    if (!session.isRolling) return this.#whileStopped(control);
    const pick = Math.floor(this.chance() * 10);
    if (pick <= 1) this.rider.act({ do: 'touch', control });
    else if (pick <= 5) {
      const down = session.recorder.touched;
      const moved = down.length && this.chance() < 0.8 ? this.pick(down) : control;
      this.rider.act({ do: 'move', control: moved, value: this.#valueFor(moved) });
    } else if (pick === 6)
      this.rider.act({ do: 'release', control: this.pick([...session.recorder.touched, control]) });
    else if (pick === 7) this.rider.act({ do: 'letgo' });
    else if (pick === 8)
      this.rider.act({ do: 'mode', channel: this.pick(session.recorder.song.channels).key, mode: this.pick(MODES) });
    else return this.#stop();
  }

  #valueFor(control: ControlId): number {
    const { song } = this.rider.session.recorder;
    const isOn = this.chance() < 0.5 ? 1 : 0;
    return isSwitch(controlOf(song, control))
      ? isOn
      : valueOf(layerLaw(song, control, this.#layerOf(control)), this.chance());
  }

  #layerOf(control: ControlId): 'base' | 'trim' {
    const { recorder } = this.rider.session;
    const { channel, kind } = controlOf(recorder.song, control);
    const isTrim = recorder.song.channels.find(({ key }) => key === channel)!.trim;
    return isTrim && (kind === 'level' || kind === 'sendLevel') ? 'trim' : 'base';
  }

  async #whileStopped(control: ControlId): Promise<void> {
    if (this.chance() < 0.3) {
      this.rider.act({ do: 'touch', control });
      return this.rider.act({ do: 'release', control });
    }
    this.#heard = [];
    await this.rider.session.play(Math.round(this.chance() * 12 * 16) / 16);
  }

  async #stop(): Promise<void> {
    this.rider.session.stop(this.rider.engine.ms);
    this.#noteHeard();
    if (this.chance() < 0.5) await this.rider.goOn(0.2);
  }

  /** Of every pass that has its receipt: a span that was open as a guard went on ended there. */
  #noteHeard(): void {
    for (const [key, receipt] of this.rider.receipts) {
      if (this.heardBy.has(key)) continue;
      const heard = this.#heard.filter(({ lap }) => lap === receipt.lap);
      this.heardBy.set(key, heard);
      for (const { control, t } of heard)
        for (const [from, to] of receipt.lanes.filter((lane) => lane.control === control).flatMap(({ spans }) => spans))
          expect([control, t, from < t - 1e-6 && to > t + 1e-6]).toEqual([control, t, false]);
    }
  }

  /** The page is left, or is gone without a word; another one comes for the song. */
  async #away(): Promise<void> {
    const isCrash = this.chance() < 0.6;
    if (isCrash) {
      this.rider.journal.write();
      await new Promise((tick) => setTimeout(tick, 20 * this.chance()));
      this.cut.add(this.rider.crash());
    } else this.rider.leave();
    this.#noteHeard();
    this.#expectHandedOver(isCrash);
    await this.newRider();
  }

  /** Every pass that wrote is on its way, unless the page was gone before it could be known that nothing late would come. */
  #expectHandedOver(isCrash: boolean): void {
    for (const [key, receipt] of this.rider.receipts)
      if (receipt.lanes.length && !this.rider.handed.has(key)) {
        expect(isCrash).toBe(true);
        this.cut.add(key);
      }
  }

  async #weather(): Promise<void> {
    const pick = this.chance();
    if (pick < 0.8) {
      weather.kind = this.pick(['away', 'lost', 'fault'] as const);
      weather.requests = 1 + Math.floor(this.chance() * 5);
      return;
    }
    this.kills++;
    await server.kill();
    for (let k = 0; k < 3; k++) await this.ride();
    await server.start();
  }

  async live(): Promise<void> {
    for (let step = 0; step < STEPS; step++) {
      const pick = this.chance();
      if (pick < 0.55) await this.ride();
      else if (pick < 0.78) await this.meddleAtRandom();
      else if (pick < 0.86) this.rider.journal.write();
      else if (pick < 0.92) await this.#weather();
      else await this.#away();
      this.#noteHeard();
      await this.rider.goOn(0.02 + this.chance());
      this.#noteHeard();
    }
  }

  /** The server is there, everybody has left in peace, and nothing is on its way any more; gives back one who looks. */
  async settle(): Promise<SmallPage> {
    weather.requests = 0;
    this.rider.leave();
    this.#noteHeard();
    this.#expectHandedOver(false);
    const last = await this.#newPage(this.browser);
    await last.outbox.gather();
    for (const page of [last, this.meddler]) {
      await page.sync.flush();
      await page.sync.catchUp();
    }
    await last.sync.catchUp();
    expect(last.outbox.of(this.id)).toEqual([]);
    return last;
  }
}

/** All that a song has become, in order, from the song it was. */
async function expectGuarded(id: number, began: Song, keys: ReadonlySet<string>): Promise<Song> {
  const { changes } = await api<Stale>(`/songs/${id}/changes?since=0`);
  let song = began;
  for (const { edit, key } of changes) {
    const after = applyEdit(song, edit).song;
    if (edit.kind === 'pass' && key !== null && keys.has(key)) expectHeeded(song, after, edit);
    song = after;
  }
  return song;
}

/** No lane has changed at or after the moment its guard was heeded, nor at all where none was. */
function expectHeeded(before: Song, after: Song, edit: Edit & { kind: 'pass' }): void {
  for (const control of controlsOf(before).keys())
    for (const layer of ['base', 'trim'] as const) {
      const law = layerLaw(before, control, layer);
      const of = (song: Song, t: number): number => {
        const lane = laneOf(song, control);
        return valueAt(layer === 'trim' ? lane.trim : lane.points, law, layer === 'trim' ? 0 : lane.rest, t);
      };
      const guard = guardOn(before, control) !== null;
      const known = edit.heeded?.find((one) => one.control === control);
      if (!guard) continue;
      const from = known?.t ?? 0;
      for (let t = from + 1e-3; t < LENGTH; t += 0.05)
        expect([control, t, of(after, t)]).toEqual([control, t, of(before, t)]);
    }
}

test(
  `${WORLDS} worlds of rides, guards from elsewhere, an absent server, lost answers and pages left: every finished pass is kept, and no guarded lane changed`,
  async () => {
    const count = { finished: 0, heeded: 0, cut: 0, kills: 0 };
    for (let n = 0; n < WORLDS; n++) {
      const { id } = await api<{ id: number }>(`/songs/${first}/duplicate`, {});
      const began = (await api<WholeSong>(`/songs/${id}`)).song;
      const world = new World(id, seeded(SEED + n));
      await world.begin();
      await world.live();
      const last = await world.settle();
      const now = await api<WholeSong>(`/songs/${id}`);
      for (const page of [last, world.meddler]) {
        expect(page.state.song).toEqual(now.song);
        expect(page.state.revision).toBe(now.revision);
      }
      // Every pass that came to its end and wrote something is kept, and named as such.
      const keys = world.pages.flatMap(({ handed }) => [...handed]);
      const kept = new Set((await api<{ keys: string[] }>(`/songs/${id}/kept`, { keys })).keys);
      expect(keys.filter((key) => !kept.has(key))).toEqual([]);
      expect(world.pages.flatMap(({ refused }) => refused).filter((s) => !/Guarded meanwhile/.test(s))).toEqual([]);
      expect(await expectGuarded(id, began, kept)).toEqual(now.song);
      // What was cut off in the middle is offered, and nothing that was finished is.
      if (world.cut.size) {
        await new Promise((tick) => setTimeout(tick, LEFT_MS));
        const offered = await findCutShort(now.song, id, new Set());
        for (const one of offered) {
          expect([kept.has(one.key), world.cut.has(one.key)]).toEqual([false, true]);
          last.sync.make(one.pass, one.key);
          count.cut++;
        }
        await last.sync.flush();
        const again = await findCutShort(last.state.song!, id, new Set());
        expect(again).toEqual([]);
      }
      last.leave();
      world.meddler.leave();
      count.finished += keys.length;
      count.kills += world.kills;
      count.heeded += [...world.heardBy.values()].filter((heard) => heard.length).length;
      expect((await api<ListedSong[]>('/songs')).map((song) => song.id)).toContain(id);
    }
    expect(count.finished).toBeGreaterThanOrEqual(WORLDS);
    if (WORLDS >= 100) expect(Math.min(count.heeded, count.cut, count.kills)).toBeGreaterThan(20);
  },
  300_000 + WORLDS * 30_000,
);
