import { beforeEach, describe, expect, jest, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { existsSync, linkSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { EDIT_KINDS } from '@sure-hand/core/edits';
import {
  FrameEncoder,
  decodeFrames,
  readSong,
  readWavInfo,
  wavHeader,
  type SampleFormat,
} from '@sure-hand/core/formats';
import { main } from './main.js';

const bin = join(dirname(fileURLToPath(import.meta.url)), '../bin/sure-hand.mjs');
let folder: string;
const at = (name: string): string => join(folder, name);
const write = (name: string, json: unknown): string => {
  writeFileSync(at(name), typeof json === 'string' ? json : JSON.stringify(json));
  return at(name);
};

/** What a command gave: its exit code, parsed output and message. */
type Said = { readonly code: number; readonly out: unknown; readonly says: string };
const said = (code: number, stdout: string, says: string): Said => ({
  code,
  out: stdout.startsWith('{') || stdout.startsWith('[') ? (JSON.parse(stdout) as unknown) : stdout,
  says,
});

/** Runs a command in this process: to start one takes longer than most of them. */
async function sureHand(...args: string[]): Promise<Said> {
  const written = { stdout: '', stderr: '' };
  const spies = (['stdout', 'stderr'] as const).map((stream) =>
    jest.spyOn(process[stream], 'write').mockImplementation((text) => {
      written[stream] += text as string;
      return true;
    }),
  );
  const code = await main([process.execPath, 'sure-hand', ...args]);
  for (const spy of spies) spy.mockRestore();
  return said(code, written.stdout, written.stderr);
}

/** Runs the real command in a process of its own. */
function spawned(...args: string[]): Said {
  const { status, stdout, stderr } = spawnSync(process.execPath, [bin, ...args], { encoding: 'utf8' });
  return said(status ?? -1, stdout, stderr);
}

const SONG = {
  format: 'sure-hand-song',
  version: 1,
  name: 'Line',
  length: 4,
  hint: 'kept',
  settings: { thin: 0 },
  channels: [
    { key: 'voice', kind: 'track', mode: 'touch', clips: [{ file: 'voice.wav' }], colour: 'kept too' },
    { key: 'main', kind: 'main' },
  ],
  lanes: { 'voice/level': { rest: -6, points: [{ t: 0, v: -6 }] } },
};
const MOVES = {
  events: [
    { do: 'play', from: 0.5 },
    { t: 1, do: 'touch', control: 'voice/level' },
    { t: 1.1, do: 'move', control: 'voice/level', value: -2 },
    { t: 2, do: 'release', control: 'voice/level' },
    { t: 3, do: 'stop' },
  ],
};

function wavOf(format: SampleFormat, value: number): Uint8Array {
  const frames = 4 * 48000;
  const column = new Float32Array(frames).fill(value);
  const bytes = new FrameEncoder(format, false).encode([column], frames);
  return Buffer.concat([wavHeader(format, 1, 48000, frames), bytes]);
}
const VOICE = wavOf('int24', 0.5);

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'sure-hand-cli-'));
  write('song.json', SONG);
  write('moves.json', MOVES);
  writeFileSync(at('voice.wav'), VOICE);
});

describe('sure-hand ride', () => {
  test('prints the receipts and writes the song after, unknown fields kept', async () => {
    const { code, out } = await sureHand(
      'ride',
      '--song',
      at('song.json'),
      '--moves',
      at('moves.json'),
      '--out',
      at('after.json'),
    );
    expect(code).toBe(0);
    expect(out).toEqual({
      receipts: [
        {
          lap: 0,
          from: 0.5,
          to: 3,
          lanes: [
            {
              control: 'voice/level',
              layer: 'base',
              spans: [[1, 2.25]],
              moves: 1,
              points: 5,
              maxDeviation: 0,
              clamped: [],
            },
          ],
          refused: [],
          rested: [],
        },
      ],
    });
    const after = JSON.parse(readFileSync(at('after.json'), 'utf8'));
    expect(after).toMatchObject({ hint: 'kept', channels: [{ colour: 'kept too' }, {}] });
    expect(after.lanes['voice/level'].points).toHaveLength(6);
    expect(readSong(after).ok).toBe(true);
  });

  test.each([
    ['song.json', '{"format":', /song\.json: The song document is no JSON/],
    ['song.json', { ...SONG, version: 2 }, /of version 2; this program reads version 1/],
    ['song.json', { ...SONG, channels: [{ key: 'a b', kind: 'track' }] }, /channels\/0\/key/],
    ['song.json', { ...SONG, lanes: { 'voice/wah': {} } }, /no control “voice\/wah”/],
    [
      'song.json',
      {
        ...SONG,
        lanes: {
          'voice/level': {
            points: [
              { t: 2, v: 0 },
              { t: 1, v: 0 },
            ],
          },
        },
      },
      /sort the points/,
    ],
    ['moves.json', { events: [{ do: 'dance' }] }, /Event 1 says do: "dance"; it can be play/],
    ['moves.json', { events: [{ do: 'move', control: 'voice/level' }] }, /Event 1 \(move\).*value/],
    ['moves.json', { events: [{ do: 'move', control: 'voice/level', value: 40 }] }, /takes −∞ dB to 12\.0 dB, not 40/],
  ])('a wrong %s is told in a sentence, and nothing is written', async (name, json, sentence) => {
    write(name, json);
    const { code, out, says } = await sureHand(
      'ride',
      '--song',
      at('song.json'),
      '--moves',
      at('moves.json'),
      '--out',
      at('after.json'),
    );
    expect({ code, out }).toEqual({ code: 1, out: '' });
    expect(says).toMatch(sentence);
    expect(existsSync(at('after.json'))).toBe(false);
  });
});

describe('sure-hand preflight', () => {
  test('prints every control on one list or the other', async () => {
    const { code, out } = await sureHand('preflight', '--song', at('song.json'), '--at', '0.5');
    expect(code).toBe(0);
    const { will, wont } = out as { will: object[]; wont: object[] };
    expect(will).toContainEqual({ control: 'voice/level', layer: 'base', when: 'touched', from: 0.5, to: null });
    expect(wont).toContainEqual({ control: 'main/level', reason: 'mode' });
    expect(will.length + wont.length).toBe(6);
  });

  test('a time outside the song is refused in a sentence', async () => {
    const { code, says } = await sureHand('preflight', '--song', at('song.json'), '--at', '9');
    expect(code).toBe(1);
    expect(says).toBe('--at “9” is no place in the song. Give seconds from 0 up to 4.\n');
  });
});

describe('sure-hand edit', () => {
  const edit = (json: unknown): ReturnType<typeof sureHand> =>
    sureHand('edit', '--song', at('song.json'), '--edit', write('edit.json', json), '--out', at('after.json'));

  test('carries a curve on and says what changed', async () => {
    write('song.json', {
      ...SONG,
      lanes: {
        'voice/level': {
          points: [
            { t: 0, v: -6 },
            { t: 1, v: -2 },
            { t: 1, v: -6 },
          ],
        },
      },
    });
    const { code, out } = await edit({ kind: 'carry', control: 'voice/level', from: 1, to: 3 });
    expect([code, out]).toEqual([0, { changed: ['voice/level'], refused: [] }]);
    const value = await sureHand('value', '--song', at('after.json'), '--control', 'voice/level', '--at', '2.5,3');
    expect(value.out).toMatchObject([{ base: -2 }, { base: -6 }]);
  });

  test('a safe lane is left alone and named; what was clamped is said', async () => {
    const lane = { points: [{ t: 0, v: 10 }], trim: [{ t: 0, v: 6 }] };
    write('song.json', { ...SONG, lanes: { 'voice/level': { ...lane, safe: true } } });
    expect((await edit({ kind: 'foldTrim', controls: ['voice/level'] })).out).toEqual({
      changed: [],
      refused: [{ control: 'voice/level', reason: 'safe' }],
    });
    write('song.json', { ...SONG, lanes: { 'voice/level': lane } });
    expect((await edit({ kind: 'foldTrim', controls: ['voice/level'] })).out).toEqual({
      changed: ['voice/level'],
      refused: [],
      clamped: [{ control: 'voice/level', ranges: [[0, 4]] }],
    });
  });

  test('a snapshot is placed through its filter; what is guarded, and what is gone, is named', async () => {
    write('song.json', {
      ...SONG,
      snapshots: [
        {
          ...{ key: 'verse-1', name: 'Verse 1', filter: { voice: ['level', 'mute'], gone: ['level'] } },
          values: { 'voice/level': -9, 'voice/pan': 1, 'voice/mute': 1, 'gone/level': 0 },
        },
      ],
      lanes: { 'voice/mute': { safe: true } },
    });
    const { code, out } = await edit({ kind: 'place', snapshot: 'verse-1', range: [1, 3], edge: 0.5 });
    expect([code, out]).toEqual([
      0,
      { changed: ['voice/level'], refused: [{ control: 'voice/mute', reason: 'safe' }], gone: ['gone/level'] },
    ]);
    const value = await sureHand('value', '--song', at('after.json'), '--control', 'voice/level', '--at', '0.9,2,3');
    expect(value.out).toMatchObject([{ base: 0 }, { base: -9 }, { base: 0 }]);
    // The same as moves, poised in a channel that reads.
    const moves = [
      { do: 'snapshot', key: 'verse-1' },
      { do: 'play', from: 1 },
      { t: 2, do: 'stop' },
    ];
    const ride = [
      '--song',
      at('song.json'),
      '--moves',
      write('moves.json', { events: moves }),
      '--out',
      at('ridden.json'),
    ];
    expect((await sureHand('ride', ...ride)).out).toMatchObject({
      receipts: [
        {
          lanes: [{ control: 'voice/level', spans: [[1, 2]] }],
          refused: [{ control: 'voice/mute', reason: 'safe' }],
          gone: ['gone/level'],
        },
      ],
    });
  });

  test('an edit that cannot be is refused in a sentence, and nothing is written', async () => {
    const { code, says } = await edit({ kind: 'carry', control: 'voice/level', from: 1, to: 9 });
    expect(code).toBe(1);
    expect(says).toContain('voice/level can be carried up to the song’s end at 4 s, not to 9 s.');
    expect(existsSync(at('after.json'))).toBe(false);
  });
});

describe('sure-hand value', () => {
  test('prints base, trim and effective value at times', async () => {
    const song = {
      ...SONG,
      channels: [...SONG.channels, { key: 'all', kind: 'vca', members: ['voice'] }],
      lanes: {
        'voice/level': {
          points: [
            { t: 0, v: -15 },
            { t: 2, v: 0 },
          ],
          trim: [{ t: 0, v: 2 }],
        },
        'all/level': { rest: -3 },
      },
    };
    const { out } = await sureHand(
      'value',
      '--song',
      write('vca.json', song),
      '--control',
      'voice/level',
      '--at',
      '0,1,9',
    );
    expect(out).toEqual([
      { t: 0, base: -15, trim: 2, effective: -16 },
      { t: 1, base: -7.5, trim: 2, effective: -8.5 },
      { t: 9, base: 0, trim: 2, effective: -1 },
    ]);
  });

  test('off and parked are at rest without trim; silence is −144 under any trim', async () => {
    const channel = { key: 'voice', kind: 'track' };
    const lane = { rest: -9, points: [{ t: 0, v: 0 }], trim: [{ t: 0, v: 6 }] };
    const value = async (song: object): Promise<unknown> =>
      (await sureHand('value', '--song', write('v.json', song), '--control', 'voice/level', '--at', '1')).out;
    const atRest = [{ t: 1, base: -9, trim: 0, effective: -9 }];
    expect(await value({ ...SONG, channels: [{ ...channel, mode: 'off' }], lanes: { 'voice/level': lane } })).toEqual(
      atRest,
    );
    expect(await value({ ...SONG, channels: [channel], lanes: { 'voice/level': { ...lane, parked: true } } })).toEqual(
      atRest,
    );
    expect(
      await value({ ...SONG, channels: [channel], lanes: { 'voice/level': { ...lane, points: [{ t: 0, v: -200 }] } } }),
    ).toEqual([{ t: 1, base: -144, trim: 6, effective: -144 }]);
  });

  test('an unknown control or time is refused', async () => {
    expect(await sureHand('value', '--song', at('song.json'), '--control', 'x/level', '--at', '0')).toMatchObject({
      code: 1,
      says: expect.stringContaining('no channel “x”'),
    });
    expect(await sureHand('value', '--song', at('song.json'), '--control', 'voice/pan', '--at', 'soon')).toMatchObject({
      code: 1,
      says: expect.stringContaining('“soon” is no time'),
    });
  });
});

describe('sure-hand bounce', () => {
  const columnsOf = (name: string): { info: { format: string; frames: number }; left: Float32Array } => {
    const bytes = readFileSync(at(name));
    const read = readWavInfo(bytes, bytes.length);
    if (!read.ok) throw new Error(read.sentence);
    const columns = [0, 1].map(() => new Float32Array(read.value.frames));
    decodeFrames(bytes.subarray(read.value.dataOffset), read.value, columns, { frames: read.value.frames });
    return { info: read.value, left: columns[0]! };
  };
  const expected = 0.5 * 10 ** (-6 / 20) * Math.SQRT1_2;

  test.each([
    ['16', 'int16', 4e-5],
    ['24', 'int24', 1e-6],
    ['32f', 'float32', 1e-7],
  ])('renders the mix to %s bit', async (bits, format, within) => {
    expect((await sureHand('bounce', '--song', at('song.json'), '--out', at('mix.wav'), '--bits', bits)).code).toBe(0);
    const { info, left } = columnsOf('mix.wav');
    expect(info).toMatchObject({ format, frames: 4 * 48000 });
    for (const n of [0, 1000, 100_000, 191_999]) expect(Math.abs(left[n]! - expected)).toBeLessThan(within);
  });

  test('a range is the same samples as in the whole', async () => {
    await sureHand('ride', '--song', at('song.json'), '--moves', at('moves.json'), '--out', at('after.json'));
    const bounce = (...more: string[]): Promise<Said> =>
      sureHand('bounce', '--song', at('after.json'), '--out', at('mix.wav'), '--bits', '32f', ...more);
    await bounce();
    const whole = columnsOf('mix.wav').left;
    await bounce('--range', '1.003,2.1');
    expect(columnsOf('mix.wav').left).toEqual(whole.slice(Math.round(1.003 * 48000), Math.round(2.1 * 48000)));
  });

  test('a sample that is no number is silence, and said: in what is mixed, and in what is measured', async () => {
    const odd = wavOf('float32', 0.5);
    const view = new DataView(odd.buffer, odd.byteOffset);
    view.setFloat32(odd.length - 4 * 48000, NaN, true);
    writeFileSync(at('voice.wav'), odd);
    const mixed = await sureHand('bounce', '--song', at('song.json'), '--out', at('mix.wav'), '--bits', '32f');
    expect(mixed).toMatchObject({ code: 0, out: { frames: 4 * 48000, peak: expect.closeTo(expected, 6) } });
    expect(mixed.says).toMatch(
      /^voice\.wav has a sample that is no number near 3\.0 s: it is silence here\. [^\n]*\n$/,
    );
    const { left } = columnsOf('mix.wav');
    expect([left[144_000], left[144_001]]).toEqual([0, expect.closeTo(expected, 6)]);
    const early = ['bounce', '--song', at('song.json'), '--out', at('mix.wav'), '--range', '0,1'];
    expect((await sureHand(...early)).says).toBe('');
    expect((await sureHand('loudness', at('voice.wav'))).says).toMatch(/near 3\.0 s: it is measured as silence/);
  });

  test.each([
    [
      'a missing file',
      () =>
        write('song.json', {
          ...SONG,
          channels: [{ key: 'v', kind: 'track', clips: [{ file: 'gone.wav' }] }],
          lanes: {},
        }),
      [],
      /“gone\.wav” is not in/,
    ],
    ['a broken file', () => write('voice.wav', 'nothing like audio'), [], /voice\.wav: This is no WAV file/],
    [
      'a path that leads elsewhere',
      () =>
        write('song.json', {
          ...SONG,
          channels: [{ key: 'v', kind: 'track', clips: [{ file: '../v.wav' }] }],
          lanes: {},
        }),
      [],
      /must lie beside/,
    ],
    ['a range past the end', () => '', ['--range', '1,9'], /is no range of the song/],
    ['a depth that is none', () => '', ['--bits', '12'], /is not one of 16, 24 or 32f/],
  ])('%s is named, and no half file is left', async (_what, spoil, more, sentence) => {
    spoil();
    const { code, says } = await sureHand('bounce', '--song', at('song.json'), '--out', at('mix.wav'), ...more);
    expect(code).toBe(1);
    expect(says).toMatch(sentence);
    expect(existsSync(at('mix.wav')) || existsSync(at('mix.wav.part'))).toBe(false);
  });
});

describe('nothing that was given in is written over', () => {
  const EDIT = { kind: 'rest', values: { 'main/level': -3 } };
  const stem = Buffer.from('a recording, as far as this test goes');

  test.each([
    ['bounce', 'voice.wav', /recording of the song, played by voice/i],
    ['bounce', './voice.wav', /recording of the song/],
    ['bounce', 'linked.wav', /recording of the song/],
    ['bounce', 'song.json', /is the file .*song\.json that was given in/],
    ['ride', 'voice.wav', /recording of the song/],
    ['ride', 'moves.json', /is the file .*moves\.json/],
    ['edit', 'linked.wav', /recording of the song/],
    ['edit', 'edit.json', /is the file .*edit\.json/],
  ])('%s --out %s is refused', async (command, out, sentence) => {
    writeFileSync(at('voice.wav'), stem);
    linkSync(at('voice.wav'), at('linked.wav'));
    const song = write('song.json', SONG);
    const given = {
      bounce: [],
      ride: ['--moves', write('moves.json', MOVES)],
      edit: ['--edit', write('edit.json', EDIT)],
    }[command]!;
    const before = ['voice.wav', 'song.json'].map((name) => readFileSync(at(name)));
    const { code, says } = await sureHand(command, '--song', song, ...given, '--out', `${folder}/${out}`);
    expect([code, says]).toEqual([1, expect.stringMatching(sentence)]);
    expect(['voice.wav', 'song.json'].map((name) => readFileSync(at(name)))).toEqual(before);
  });

  test('but the song itself, by ride and edit, where that is asked for', async () => {
    const song = write('song.json', SONG);
    expect((await sureHand('edit', '--song', song, '--edit', write('edit.json', EDIT), '--out', song)).code).toBe(0);
    expect(JSON.parse(readFileSync(song, 'utf8'))).toMatchObject({ lanes: { 'main/level': { rest: -3 } } });
  });
});

describe('sure-hand loudness', () => {
  test('measures a file: a steady sine of −20 dBFS on one channel counts on both sides', async () => {
    const frames = 5 * 48000;
    const column = Float32Array.from({ length: frames }, (_, i) => 0.1 * Math.sin((2 * Math.PI * 1000 * i) / 48000));
    const bytes = new FrameEncoder('int24').encode([column], frames);
    writeFileSync(at('tone.wav'), Buffer.concat([wavHeader('int24', 1, 48000, frames), bytes]));
    const { code, out } = await sureHand('loudness', at('tone.wav'));
    expect(code).toBe(0);
    expect(Object.keys(out as object)).toEqual(['integrated', 'momentaryMax', 'shortTermMax', 'range', 'truePeak']);
    const { integrated, momentaryMax, shortTermMax, truePeak } = out as Record<string, number>;
    for (const lufs of [integrated, momentaryMax, shortTermMax]) expect(lufs).toBeCloseTo(-20, 1);
    expect(truePeak).toBeCloseTo(-20, 1);
  });

  test.each([
    ['gone.wav', /can’t be read/],
    ['song.json', /no WAV file/],
  ])('%s is refused in a sentence', async (name, sentence) => {
    expect(await sureHand('loudness', at(name))).toMatchObject({ code: 1, says: expect.stringMatching(sentence) });
  });
});

test('sure-hand backup and restore say what is wrong, and look after the folder they are given', async () => {
  const none = await sureHand('backup', '--to', at('backup'), '--data', at('nothing'));
  expect([none.code, none.says]).toEqual([1, expect.stringMatching(/nothing is no data folder/)]);
  const odd = await sureHand('restore', '--from', folder, '--data', at('data'));
  expect([odd.code, odd.says]).toEqual([1, expect.stringMatching(/is no backup/)]);
});

test('every command is documented by --help', async () => {
  expect(spawned('--help')).toMatchObject({ code: 0, out: expect.stringContaining('Usage: sure-hand'), says: '' });
  for (const command of ['ride', 'value', 'bounce']) {
    const { code, out } = await sureHand(command, '--help');
    expect(code).toBe(0);
    expect(out).toContain('--song <file>');
  }
  const { out } = await sureHand('edit', '--help');
  for (const { kind } of EDIT_KINDS) expect(out).toContain(`\n  ${kind}: `);
});
