import fc from 'fast-check';
import type { Range } from '../curve/index.js';
import type { HandEvent, PassRecorder } from '../pass/index.js';
import { CONTROL_KINDS, MODES, controlOf, loopOf, type Mode, type Song } from '../song/index.js';
import { TRIM_LAW, valueOf } from '../units/index.js';
import { testSong } from './songs.js';

export const LENGTH = 16;
export const CONTROLS = [
  'voice/level',
  'voice/level/sway',
  'voice/pan',
  'voice/mute',
  'voice/send/hall/level',
  'voice/send/hall/on',
  'voice/insert/comp/threshold',
  'voice/insert/comp/release',
  'voice/insert/comp/on',
  'fiddle/level',
  'fiddle/level/sway',
  'fiddle/pan',
  'fiddle/send/hall/level',
  'fiddle/send/hall/on',
  'all/level',
  'all/mute',
  'main/level',
];
/** What sways, or may. */
const SWAYING = ['voice/level', 'fiddle/level'];
const share = fc.double({ min: 0, max: 1, noNaN: true });
const flag = fc.boolean();
const rarely = fc.integer({ min: 0, max: 5 }).map((n) => n === 0);
const mode = fc.constantFrom<Mode>(...MODES);
const punches = fc.constantFrom<Range | null>(null, null, null, [3, 9], [0, 5], [4, 5]);
const loops = fc.constantFrom<Range | null>(null, null, [2, 4], [3, 6.5], [0, 1.2], [14, 18]);

/** Songs in any state: curves or none, trim waiting or none, modes, guards, ranges, settings. */
export const songs = fc
  .record({
    modes: fc.array(mode, { minLength: 5, maxLength: 5 }),
    trims: fc.array(flag, { minLength: 5, maxLength: 5 }),
    channelSafe: fc.array(rarely, { minLength: 5, maxLength: 5 }),
    channelParked: fc.array(rarely, { minLength: 5, maxLength: 5 }),
    safe: fc.array(rarely, { minLength: CONTROLS.length, maxLength: CONTROLS.length }),
    parked: fc.array(rarely, { minLength: CONTROLS.length, maxLength: CONTROLS.length }),
    curved: fc.subarray(CONTROLS),
    trimmed: fc.subarray(CONTROLS),
    returnTime: fc.constantFrom(0, 0.25, 0.25, 1, 4),
    sways: fc.array(flag, { minLength: 2, maxLength: 2 }),
    punch: punches,
    loop: loops,
    afterWrite: fc.constantFrom('touch', 'touch', 'write'),
    foldTrim: fc.constantFrom('hand', 'hand', 'pass'),
    deskMode: fc.option(mode, { freq: 4 }),
    scope: fc.subarray([...CONTROL_KINDS], { minLength: 3 }),
    gangs: fc.array(
      fc.record({
        channels: fc.constantFrom(['voice', 'fiddle'], ['fiddle', 'voice', 'all'], ['main', 'voice', 'fiddle']),
        pan: fc.constantFrom('same', 'mirror'),
        modes: rarely,
      }),
      { maxLength: 2 },
    ),
    ganged: fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 4, maxLength: 4 }),
    songParked: fc.integer({ min: 0, max: 30 }).map((n) => n === 0),
  })
  .map((s): Song => {
    const toCurve = (id: string, i: number): object[] =>
      [0, 1, 2, 3].map((k) => {
        const x = (Math.sin(7 * i + 3 * k) + 1) / 2;
        const v = /mute|on$/.test(id) ? Math.round(x) : id.endsWith('pan') ? 2 * x - 1 : -40 * x;
        if (id.endsWith('/sway')) return { t: 1 + 4 * k, v: x / 2, shape: 's', bend: 0.4 };
        if (id.endsWith('release')) return { t: 1 + 4 * k, v: 20 + 900 * x, shape: 's', bend: 0.4 };
        return { t: 1 + 4 * k, v, shape: 's', bend: 0.4 };
      });
    const lanes = CONTROLS.map((id, i) => [
      id,
      {
        points: s.curved.includes(id) ? toCurve(id, i) : [],
        trim:
          s.trimmed.includes(id) && /level$|threshold$/.test(id)
            ? [
                { t: 2, v: 0 },
                { t: 5, v: 4 },
                { t: 8, v: -2 },
              ]
            : [],
        ...(id.endsWith('/sway') ? {} : { safe: s.safe[i], parked: s.parked[i] }),
        ...(SWAYING.includes(id) ? { sway: { hz: 0.7, depth: 0.1, on: s.sways[SWAYING.indexOf(id)] } } : {}),
      },
    ]);
    const channel = (key: string, kind: string, i: number, more: object = {}): object => ({
      key,
      kind,
      mode: s.modes[i],
      trim: s.trims[i],
      safe: s.channelSafe[i] ? [CONTROL_KINDS[i % 3]] : [],
      parked: s.channelParked[i],
      ...more,
    });
    // Each kind is in one gang at most; a third of them in none.
    const kindsOf = (gang: number): string[] =>
      ['level', 'pan', 'mute', 'sends'].filter((_, i) => s.ganged[i] === gang);
    const gangs = s.gangs.map((gang, i) => ({ ...gang, key: `gang-${i}`, name: `Gang ${i}`, kinds: kindsOf(i) }));
    const { returnTime, punch, loop, afterWrite, foldTrim, deskMode, scope, songParked } = s;
    const settings = { returnTime, punch, loop, afterWrite, foldTrim, deskMode, writeScope: scope, parked: songParked };
    const song = testSong({
      length: LENGTH,
      settings: settings as never,
      channels: [
        channel('voice', 'track', 0, {
          sends: [{ bus: 'hall', tap: 'post', pan: 'follow' }],
          inserts: [{ slot: 'comp', effect: 'compressor' }],
        }),
        channel('fiddle', 'track', 1, { sends: [{ bus: 'hall', tap: 'pre', pan: 'follow' }] }),
        channel('hall', 'bus', 4),
        channel('all', 'vca', 2, { members: ['voice', 'fiddle'] }),
        channel('main', 'main', 3),
      ] as never,
      gangs: gangs as never,
      lanes: Object.fromEntries(lanes) as never,
    });
    return { ...song, snapshots: snapshotsOf(song) };
  });

export const steps = fc.array(
  fc.record({
    // In half milliseconds: none, a fast hand's, a slow one's.
    dt: fc
      .oneof(fc.constant(0), fc.integer({ min: 0, max: 60 }), fc.integer({ min: 0, max: 4000 }))
      .map((n) => n / 2000),
    what: fc.constantFrom(
      ...['touch', 'touch', 'touch', 'move', 'move', 'move', 'move', 'move', 'release', 'release'],
      ...[
        'mode',
        'mode',
        'letgo',
        'letgo',
        'desk',
        'trim',
        'safe',
        'safeKinds',
        'park',
        'parkChannel',
        'scope',
        'stop',
        'play',
        'tryout',
        'drop',
        'aside',
        'snapshot',
      ],
    ),
    // Two steps of three are about one control, so that what happens to it adds up.
    control: fc.oneof(
      { weight: 2, arbitrary: fc.constant(-1) },
      { weight: 1, arbitrary: fc.integer({ min: 0, max: CONTROLS.length - 1 }) },
    ),
    x: share,
    on: flag,
    mode,
    alone: rarely,
  }),
  { minLength: 4, maxLength: 40 },
);
/** What is drawn for one step. */
export type Step = typeof steps extends fc.Arbitrary<(infer S)[]> ? S : never;
/** Which control the most of a sequence is about. */
export const favourites = fc.constantFrom(...CONTROLS);

const someValue = (song: Song, id: string, x: number): number => {
  const { law } = controlOf(song, id);
  return law.kind === 'switch' ? Math.round(x) : valueOf(law, x);
};

/** Two snapshots: of everything there is and more, and of some, of which the filter recalls levels and sends of two channels. */
const snapshotsOf = (song: Song): Song['snapshots'] => {
  const values = (xs: readonly number[]): { [id: string]: number } =>
    Object.fromEntries(CONTROLS.map((id, i) => [id, someValue(song, id, xs[i % xs.length]!)]));
  const common = { note: '', t: 1 };
  return [
    { ...common, key: 'all', name: 'All', values: { ...values([0.6, 0.4, 0.9]), 'gone/level': -3 }, filter: null },
    {
      ...common,
      key: 'some',
      name: 'Some',
      values: { ...values([0.2, 0.7]), 'voice/send/gone/level': -9, 'gone/pan': 0 },
      filter: { voice: ['level', 'sends'], all: ['level'] },
    },
  ];
};

/** Hands that do anything they can, stopped and rolling, round loops; each pass ends with a stop. */
export function eventsOf(song: Song, drawn: readonly Step[], favourite: string): HandEvent[] {
  const loop = loopOf(song);
  const events: HandEvent[] = [];
  let rolling: { t: number; lap: number; loops: boolean } | null = null;
  let stood = 0;
  const put = (event: HandEvent): void =>
    void events.push(rolling ? { ...event, t: rolling.t, lap: rolling.lap } : event);
  for (const { dt, what, control: index, x, on, mode, alone } of drawn) {
    const control = CONTROLS[index] ?? favourite;
    const channel = control.split('/')[0]!;
    if (rolling) {
      rolling.t += dt;
      if (rolling.loops && rolling.t > loop![1]) {
        rolling.lap++;
        rolling.t = loop![0] + Math.min(rolling.t - loop![1], loop![1] - loop![0]);
      }
      rolling.t = Math.min(rolling.t, LENGTH);
    }
    // It stands for a few steps, so that hands can poise, and then rolls for long.
    stood = rolling ? 0 : stood + 1;
    switch (stood > 3 ? 'play' : what) {
      case 'play': {
        if (rolling) break;
        const from = 6 * x;
        put({ do: 'play', from });
        rolling = { t: from, lap: 0, loops: loop !== null && from < loop[1] };
        break;
      }
      case 'stop':
        if (x < 0.5 || !rolling) put({ do: 'stop' });
        if (x < 0.5) rolling = null;
        break;
      case 'move': {
        const { law } = controlOf(song, control);
        put({ do: 'move', control, value: law.kind === 'switch' ? Math.round(x) : x, ...(alone ? { alone } : {}) });
        break;
      }
      case 'touch':
        put({ do: 'touch', control, ...(alone ? { alone } : {}) });
        break;
      case 'release':
        put({ do: 'release', control });
        break;
      case 'letgo':
        if (on) put({ do: 'letgo' });
        break;
      case 'mode':
        put({ do: 'mode', channel, mode });
        break;
      case 'desk':
        if (x < 0.4) put({ do: 'desk', mode: on ? mode : null });
        break;
      case 'trim':
        put({ do: 'trim', channel, on });
        break;
      case 'safe':
        put({ do: 'safe', control, on: on && x < 0.4 });
        break;
      case 'safeKinds':
        if (x < 0.3) put({ do: 'safe', channel, kinds: on ? [controlOf(song, control).kind] : [] });
        break;
      case 'park':
        put({ do: 'park', control, on: on && x < 0.4 });
        break;
      case 'parkChannel':
        if (x < 0.2) put(x < 0.02 ? { do: 'park', on } : { do: 'park', channel, on: on && x < 0.1 });
        break;
      case 'tryout':
        put({ do: 'tryout', on: on && x < 0.6 });
        if (x < 0.1) put({ do: 'before', on });
        break;
      case 'drop':
        put(on ? { do: 'drop', controls: [control] } : { do: 'drop' });
        break;
      case 'aside':
        if (x < 0.4) put({ do: 'aside', values: { [control]: someValue(song, control, 2.5 * x) } });
        break;
      case 'snapshot':
        if (x < 0.7) put({ do: 'snapshot', key: on ? 'all' : 'some' });
        break;
      case 'scope':
        if (x < 0.3) put({ do: 'scope', kinds: on ? [...CONTROL_KINDS] : CONTROL_KINDS.slice(0, 3) });
        break;
    }
  }
  if (rolling) put({ do: 'stop' });
  return events;
}

/** A move's value is drawn as a travel: here it gets the unit of the layer that a hand gives by then. */
export function asMeant(recorder: PassRecorder, event: HandEvent): HandEvent {
  if (event.do !== 'move') return event;
  const { law } = controlOf(recorder.song, event.control);
  if (law.kind === 'switch') return event;
  return { ...event, value: valueOf(recorder.layerGiven(event.control) === 'trim' ? TRIM_LAW : law, event.value) };
}
