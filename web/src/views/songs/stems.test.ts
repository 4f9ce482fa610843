import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { guessTrack } from '@sure-hand/core/formats';
import type { StagedStem } from '@sure-hand/server';
import { commonRate, stemsAfter, type Stem, type StemAct } from './stems.js';

const file = (name: string): { key: string; name: string; size: number } => ({ key: name, name, size: 10 });
const staged = (fileName: string, sampleRate = 48000): StagedStem =>
  ({
    id: `on the server ${fileName}`,
    fileName,
    bytes: 10,
    info: { sampleRate, channels: 1, format: 'int16', frames: 480, dataOffset: 44 },
    sentence: null,
    guess: guessTrack(fileName),
  }) as unknown as StagedStem;
const after = (...acts: StemAct[]): readonly Stem[] => acts.reduce<readonly Stem[]>(stemsAfter, []);
const dropped: StemAct = { do: 'drop', files: ['10 Choir.wav', '2 Bass.wav', '1 Lead.wav'].map(file) };

describe('stems of a new song', () => {
  test('stand in the order of their numbers, and take the names and families guessed once they are there', () => {
    const stems = after(dropped, { do: 'arrive', key: '2 Bass.wav', staged: staged('2 Bass.wav') });
    expect(stems.map(({ fileName }) => fileName)).toEqual(['1 Lead.wav', '2 Bass.wav', '10 Choir.wav']);
    expect(stems[1]).toMatchObject({ state: 'ready', name: 'Bass', family: 'Low', share: 1 });
    expect(stems[0]).toMatchObject({ state: 'waiting', name: '1 Lead' });
  });

  test('that are broken say why, and stay out of it; the others are not touched', () => {
    const broken = { ...staged('1 Lead.wav'), info: null, sentence: 'This is no WAV file.' };
    const stems = after(dropped, { do: 'arrive', key: '1 Lead.wav', staged: broken });
    expect(stems[0]).toMatchObject({ state: 'broken', sentence: 'This is no WAV file.' });
    const cut = after(dropped, { do: 'fail', key: '2 Bass.wav', sentence: 'The server can’t be reached.' });
    expect(cut.map(({ state }) => state)).toEqual(['waiting', 'broken', 'waiting']);
    const again = stemsAfter(cut, { do: 'again', key: '2 Bass.wav' });
    expect(again[1]).toMatchObject({ state: 'waiting', sentence: null });
  });

  test('are put in any order: each stays one, and the one that is moved stands where it was put', () => {
    const stems = after(dropped);
    fc.assert(
      fc.property(fc.nat(2), fc.nat(2), (from, to) => {
        const moved = stemsAfter(stems, { do: 'move', key: stems[from]!.key, to });
        expect(moved[to]).toBe(stems[from]);
        expect(new Set(moved)).toEqual(new Set(stems));
        expect(stemsAfter(moved, { do: 'move', key: stems[from]!.key, to: from })).toEqual(stems);
      }),
    );
  });

  test('keep what a person called them, whatever comes after', () => {
    const named = after(
      dropped,
      { do: 'arrive', key: '2 Bass.wav', staged: staged('2 Bass.wav') },
      { do: 'describe', key: '2 Bass.wav', words: { name: 'Sub', family: 'Floor' } },
      { do: 'arrive', key: '1 Lead.wav', staged: staged('1 Lead.wav') },
      { do: 'remove', key: '10 Choir.wav' },
    );
    expect(named.map(({ name, family }) => [name, family])).toEqual([
      ['Lead', 'Voices'],
      ['Sub', 'Floor'],
    ]);
  });

  test('give the song the rate that most of them have', () => {
    expect(commonRate([])).toBe(48000);
    const rates = [44100, 48000, 44100].map(
      (rate, i) => ({ do: 'arrive', key: `${i}`, staged: staged(`${i}`, rate) }) as const,
    );
    const stems = after({ do: 'drop', files: ['0', '1', '2'].map(file) }, ...rates);
    expect(commonRate(stems)).toBe(44100);
  });
});
