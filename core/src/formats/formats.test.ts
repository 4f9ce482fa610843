import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { applyEdit } from '../edits/index.js';
import { SONG_SCHEMA, laneOf } from '../song/index.js';
import { expectWithin } from '../test/often.js';
import { runs } from '../test/runs.js';
import { testSong } from '../test/songs.js';
import { readEdit } from './editDocument.js';
import { readSong } from './songDocument.js';
import { FrameEncoder, decodeFrames, findWavInfo, readWavInfo, wavHeader, type SampleFormat } from './wav.js';

describe('a song document', () => {
  test('is described by the published JSON Schema', () => {
    const published = readFileSync(
      join(dirname(fileURLToPath(import.meta.url)), '../../../docs/song.schema.json'),
      'utf8',
    );
    expect(JSON.parse(published)).toEqual(JSON.parse(JSON.stringify(SONG_SCHEMA)));
  });

  test('fills in the defaults of everything it does not say', () => {
    const read = readSong({ format: 'sure-hand-song', version: 1, length: 9, channels: [{ key: 'a', kind: 'track' }] });
    if (!read.ok) throw new Error(read.sentence);
    const song = read.value;
    expect(song.settings).toEqual({
      returnTime: 0.25,
      edgeTime: 0.1,
      thin: 0.002,
      writeScope: ['level', 'pan', 'mute', 'sends', 'inserts'],
      afterWrite: 'touch',
      foldTrim: 'hand',
      panLaw: 3,
      deskMode: null,
      parked: false,
      punch: null,
      loop: null,
    });
    expect(song.channels.map((c) => [c.key, c.kind, c.mode, c.output])).toEqual([
      ['a', 'track', 'read', 'main'],
      ['main', 'main', 'read', 'main'],
    ]);
    expect(['a/level', 'a/pan', 'a/mute'].map((id) => laneOf(song, id).rest)).toEqual([0, 0, 0]);
  });

  test('gives sends their controls: silent and on, with a pan of their own where asked', () => {
    const song = testSong({
      channels: [
        { key: 'voice', kind: 'track', sends: [{ bus: 'hall', tap: 'post', pan: 'own' }] },
        { key: 'hall', kind: 'bus' },
      ],
    });
    expect(laneOf(song, 'voice/send/hall/level').rest).toBe(-144);
    expect(laneOf(song, 'voice/send/hall/on').rest).toBe(1);
    expect(laneOf(song, 'voice/send/hall/pan').rest).toBe(0);
  });

  test.each([
    [
      'two channels of one key',
      {
        channels: [
          { key: 'a', kind: 'track' },
          { key: 'a', kind: 'bus' },
        ],
      },
      /Two channels have the key “a”/,
    ],
    ['a member that is not there', { channels: [{ key: 'v', kind: 'vca', members: ['x'] }] }, /names the channel “x”/],
    [
      'VCAs in a ring',
      {
        channels: [
          { key: 'v', kind: 'vca', members: ['w'] },
          { key: 'w', kind: 'vca', members: ['v'] },
        ],
      },
      /v → w → v hold each other/,
    ],
    ['a length of nothing', { length: 0 }, /\/length/],
    ['a level above its throw', { lanes: { 'a/level': { points: [{ t: 0, v: 13 }] } } }, /value 13, outside its range/],
    [
      'three points at one time',
      { lanes: { 'a/pan': { points: [0, 0, 0].map((v) => ({ t: 1, v })) } } },
      /at most two may/,
    ],
  ])('with %s is refused in a sentence', (_what, part, sentence) => {
    const json = { format: 'sure-hand-song', version: 1, length: 9, channels: [{ key: 'a', kind: 'track' }], ...part };
    expect(readSong(json)).toMatchObject({ ok: false, sentence: expect.stringMatching(sentence) });
  });

  test('of an earlier version has its settings turned over, and its marks put in order', () => {
    const older = { format: 'sure-hand-song', version: 1, length: 9, channels: [{ key: 'a', kind: 'track' }] };
    const settingsOf = (settings: object): unknown => {
      const read = readSong({
        ...older,
        settings,
        sections: [
          { t: 4, name: 'B' },
          { t: 0, name: 'A' },
        ],
      });
      if (!read.ok) throw new Error(read.sentence);
      expect(read.value.sections.map(({ name }) => name)).toEqual(['A', 'B']);
      const { foldTrim, afterWrite } = read.value.settings;
      return [foldTrim, afterWrite];
    };
    expect(settingsOf({})).toEqual(['hand', 'touch']);
    expect(settingsOf({ foldTrim: 'stop', afterWrite: 'latch' })).toEqual(['pass', 'touch']);
    expect(settingsOf({ foldTrim: 'off', afterWrite: 'read' })).toEqual(['hand', 'touch']);
    expect(settingsOf({ foldTrim: 'ask', afterWrite: 'write' })).toEqual(['hand', 'write']);
    expect(readSong({ ...older, settings: { foldTrim: 'toString' } })).toMatchObject({ ok: false });
  });

  test('whatever it is given, reading ends in a song or a sentence', () => {
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (channels, lanes) => {
        const read = readSong({ format: 'sure-hand-song', version: 1, length: 9, channels, lanes });
        expect(read.ok || read.sentence.length > 10).toBe(true);
      }),
      { numRuns: 300 },
    );
  });
});

describe('edits', () => {
  const song = testSong();
  test('taken back leave the same document', () => {
    for (const edit of [
      { kind: 'rest', values: { 'voice/pan': 0.5, 'fiddle/level': -3 } },
      { kind: 'channel', channel: 'voice', changes: { mode: 'latch', solo: true } },
      { kind: 'settings', changes: { returnTime: 1, loop: [1, 2] } },
      { kind: 'lanes', lanes: { 'voice/level': null } },
    ]) {
      const read = readEdit(song, edit);
      if (!read.ok) throw new Error(read.sentence);
      const { song: after, inverse } = applyEdit(song, read.value);
      expect(after).not.toEqual(song);
      expect(applyEdit(after, inverse!).song).toEqual(song);
    }
  });

  test('leave a guarded lane alone and name it', () => {
    const safe = testSong({ lanes: { 'voice/pan': { safe: true } } });
    const { changed, refused } = applyEdit(safe, { kind: 'rest', values: { 'voice/pan': 1, 'voice/level': -3 } });
    expect({ changed, refused }).toEqual({
      changed: ['voice/level'],
      refused: [{ control: 'voice/pan', reason: 'safe' }],
    });
  });
});

describe('WAV', () => {
  const formats: SampleFormat[] = ['int16', 'int24', 'int32', 'float32'];
  test.each(formats)('%s samples come back as they went, to a step', (format) => {
    const columns = [0, 1].map((c) => Float32Array.from({ length: 500 }, (_, i) => Math.sin(i * 0.1 + c) * 0.9));
    const bytes = new FrameEncoder(format, false).encode(columns, 500);
    const file = new Uint8Array([...wavHeader(format, 2, 48000, 500), ...bytes]);
    const read = readWavInfo(file, file.length);
    if (!read.ok) throw new Error(read.sentence);
    expect(read.value).toMatchObject({ format, channels: 2, frames: 500, sampleRate: 48000 });
    const back = [new Float32Array(500), new Float32Array(500)];
    decodeFrames(file.subarray(read.value.dataOffset), read.value, back, { frames: 500 });
    const step = { int16: 1 / 32768, int24: 1 / 8388608, int32: 1e-7, float32: 0 }[format];
    back.forEach((column, c) => column.forEach((x, i) => expectWithin(x, columns[c]![i]!, step + Number.EPSILON)));
  });

  test('a float sample that is no sound is read as silence, and those beside it as they are', () => {
    const sound = [0.5, NaN, -0.25, Infinity, 1.5, -Infinity, 0];
    const bytes = new FrameEncoder('float32').encode([Float32Array.from(sound)], sound.length);
    const info = readWavInfo(
      new Uint8Array([...wavHeader('float32', 1, 48000, sound.length), ...bytes]),
      44 + bytes.length,
    );
    if (!info.ok) throw new Error(info.sentence);
    const back = [new Float32Array(sound.length)];
    expect(decodeFrames(bytes, info.value, back, { frames: sound.length })).toBe(1);
    expect([...back[0]!]).toEqual([0.5, 0, -0.25, 0, 1.5, 0, 0]);
  });

  test('16 bit is dithered by a triangle of one step either way, the same every time', () => {
    const column = [new Float32Array(20000).fill(0.3 / 32768)];
    const encode = (): Int16Array => new Int16Array(new FrameEncoder('int16').encode(column, 20000).buffer);
    const samples = encode();
    expect(encode()).toEqual(samples);
    expect(samples.reduce((sum, x) => sum + x, 0) / 20000).toBeCloseTo(0.3, 1);
    expect(Math.max(...samples.map(Math.abs))).toBeLessThanOrEqual(2);
  });

  test.each([
    [new Uint8Array(40), /no WAV file/],
    [wavHeader('int16', 6, 48000, 10), /6 channels/],
    [wavHeader('int16', 1, 48000, 10), /cut short: 20 bytes of audio are promised, 0 are there/],
  ])('what is none is told in a sentence', (head, sentence) => {
    expect(readWavInfo(head, head.length)).toMatchObject({ ok: false, sentence: expect.stringMatching(sentence) });
  });

  /** A file of chunks, each a tag, its content and a size that may lie. */
  const riff = (form: string, ...chunks: readonly [string, Uint8Array, number?][]): Uint8Array => {
    const tag = (text: string): number[] => [...text].map((c) => c.charCodeAt(0));
    const size = (n: number): number[] => [n, n >> 8, n >> 16, n >> 24].map((b) => b & 255);
    const body = chunks.flatMap(([name, content, said]) => [
      ...tag(name),
      ...size(said ?? content.length),
      ...content,
      ...(content.length % 2 ? [0] : []),
    ]);
    return new Uint8Array([...tag(form), ...size(body.length + 4), ...tag('WAVE'), ...body]);
  };
  const mono16 = wavHeader('int16', 1, 44100, 0).subarray(20, 36);
  const audio = new Uint8Array(20);

  test('broadcast WAV and files with other chunks are read past them, wherever the audio begins', () => {
    const file = riff(
      'RIFF',
      ['bext', new Uint8Array(603)],
      ['fmt ', mono16],
      ['junk', new Uint8Array(200_001)],
      ['data', audio],
    );
    expect(readWavInfo(file, file.length)).toMatchObject({ ok: true, value: { frames: 10, sampleRate: 44100 } });
  });

  test('RF64 says its sizes in a chunk of their own', () => {
    const sizes = new Uint8Array(28);
    new DataView(sizes.buffer).setBigUint64(8, 20n, true);
    const file = riff('RF64', ['ds64', sizes], ['fmt ', mono16], ['data', audio, 0xffffffff]);
    expect(readWavInfo(file, file.length)).toMatchObject({ ok: true, value: { frames: 10 } });
    expect(readWavInfo(file, file.length - 6)).toMatchObject({
      ok: false,
      sentence: expect.stringContaining('20 bytes of audio are promised, 14 are there'),
    });
  });

  /** A format chunk as somebody else's program writes it. */
  const format = (bits: number, channels: number, block: number): Uint8Array => {
    const chunk = mono16.slice();
    const view = new DataView(chunk.buffer);
    view.setUint16(2, channels, true);
    view.setUint16(12, block, true);
    view.setUint16(14, bits, true);
    return chunk;
  };
  const infoOf = (file: Uint8Array) => {
    const read = readWavInfo(file, file.length);
    if (!read.ok) throw new Error(read.sentence);
    return read.value;
  };

  test('24 bits that stand in four bytes are read by their blocks', () => {
    const samples = new Int32Array([0x40000000, -0x40000000, 0x20000000, 0]);
    const file = riff('RIFF', ['fmt ', format(24, 2, 8)], ['data', new Uint8Array(samples.buffer)]);
    const info = infoOf(file);
    expect(info).toMatchObject({ format: 'int32', bytesPerFrame: 8, frames: 2 });
    const sides = [new Float32Array(2), new Float32Array(2)];
    decodeFrames(file.subarray(info.dataOffset), info, sides, { frames: 2 });
    expect(sides.map((side) => [...side])).toEqual([
      [0.5, 0.25],
      [-0.5, 0],
    ]);
    // Blocks that nobody filled in go by the bits; those that cannot be shared are refused.
    expect(infoOf(riff('RIFF', ['fmt ', format(16, 2, 0)], ['data', audio]))).toMatchObject({ bytesPerFrame: 4 });
    const odd = riff('RIFF', ['fmt ', format(16, 2, 5)], ['data', audio]);
    expect(readWavInfo(odd, odd.length)).toMatchObject({ ok: false, sentence: expect.stringMatching(/5 bytes/) });
  });

  test.each([0, 0xffffffff])('a streamed file whose data says %d bytes goes on to its end', (said) => {
    expect(infoOf(riff('RIFF', ['fmt ', mono16], ['data', audio, said]))).toMatchObject({ frames: 10 });
  });

  test('data that is really empty stays so, whatever chunk follows', () => {
    const file = riff('RIFF', ['fmt ', mono16], ['data', new Uint8Array()], ['LIST', audio]);
    expect(infoOf(file).frames).toBe(0);
  });

  test('an odd chunk is read past, with its byte of nothing or without', () => {
    const padded = riff('RIFF', ['junk', new Uint8Array(3)], ['fmt ', mono16], ['data', audio]);
    const bare = new Uint8Array([...padded.subarray(0, 23), ...padded.subarray(24)]);
    for (const file of [padded, bare]) expect(infoOf(file)).toMatchObject({ frames: 10, sampleRate: 44100 });
  });

  test('over 4 GB it becomes RF64, and is read back as long as it is', () => {
    const frames = 2 ** 31;
    const head = wavHeader('int24', 2, 48000, frames);
    expect(String.fromCharCode(...head.subarray(0, 4), ...head.subarray(12, 16))).toBe('RF64ds64');
    const read = findWavInfo((at, length) => head.subarray(at, at + length), head.length + frames * 6);
    expect(read).toMatchObject({ ok: true, value: { frames, dataOffset: 80, bytesPerFrame: 6 } });
    expect(wavHeader('int16', 2, 48000, 1e9)).toHaveLength(44);
  });

  test('10 000 mutated headers are read or refused in a sentence, none breaks or hangs', () => {
    const whole = riff('RIFF', ['bext', new Uint8Array(40)], ['fmt ', mono16], ['data', audio]);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        fc.nat(whole.length),
        (changes, length) => {
          const file = whole.slice();
          for (const [at, byte] of changes) file[at] = byte;
          const read = readWavInfo(file.subarray(0, length), length);
          if (!read.ok) expect(read.sentence).toMatch(/^(This|The).*\.$/s);
          else expect(read.value.dataOffset + read.value.frames * read.value.bytesPerFrame).toBeLessThanOrEqual(length);
        },
      ),
      { numRuns: runs(10_000) },
    );
  });
});
