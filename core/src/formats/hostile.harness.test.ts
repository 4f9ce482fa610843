import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PassRecorder, runMoves, type HandEvent } from '../pass/index.js';
import { applyEdit, nameOfEdit } from '../edits/index.js';
import { type Song } from '../song/index.js';
import { anySong, draws, editFrom, expectTakenBack } from '../test/anyEdit.js';
import { mutated, mutations } from '../test/mutate.js';
import { asMeant, eventsOf, favourites, songs, steps } from '../test/randomHands.js';
import { readEdit } from './editDocument.js';
import { parseMoves } from './movesFile.js';
import { parseSong, readSong } from './songDocument.js';

/** How many of each are mutated: some with every test, ten thousand by `npm run harness`. */
const MUTATIONS = Number(process.env.SURE_HAND_MUTATIONS ?? 250);
/** Of so many one in a hundred is taken, at least; of few it may be none. */
const TAKEN = MUTATIONS < 1000 ? -1 : MUTATIONS / 100;
const SENTENCE = /^[A-ZÀ-ÿ“a-z].*[.)]$/s;
const asText = (json: unknown): string => JSON.stringify(json) ?? 'undefined';

/** A song that was stored can be opened again. */
function expectOpenable(song: Song): void {
  const read = parseSong(asText(song));
  if (!read.ok) throw new Error(read.sentence);
  expect(JSON.parse(asText(read.value))).toEqual(JSON.parse(asText(song)));
}

test('mutated edits are refused in a sentence, or leave a document that is valid and can be opened', () => {
  let taken = 0;
  fc.assert(
    fc.property(fc.array(draws, { maxLength: 3 }), draws, mutations, (before, draw, changes) => {
      const song = before.reduce((s, d) => {
        const edit = editFrom(s, d);
        return readEdit(s, edit).ok ? applyEdit(s, edit).song : s;
      }, anySong());
      const read = readEdit(song, mutated(editFrom(song, draw), changes));
      if (!read.ok) return expect(read.sentence).toMatch(SENTENCE);
      taken++;
      const { song: after, inverse } = applyEdit(song, read.value);
      expectOpenable(after);
      expect(nameOfEdit(song, read.value, 1).length).toBeGreaterThan(3);
      if (inverse) expectTakenBack(song, after, { edit: read.value, inverse });
    }),
    { numRuns: MUTATIONS },
  );
  expect(taken).toBeGreaterThan(TAKEN);
});

test('mutated documents are refused in a sentence, or read as a song that can be kept and opened', () => {
  let taken = 0;
  fc.assert(
    fc.property(songs, mutations, (song, changes) => {
      const read = readSong(mutated(song, changes));
      if (!read.ok) return expect(read.sentence).toMatch(SENTENCE);
      taken++;
      expectOpenable(read.value);
    }),
    { numRuns: MUTATIONS },
  );
  expect(taken).toBeGreaterThan(TAKEN);
});

test('mutated moves are refused in a sentence, or ridden', () => {
  fc.assert(
    fc.property(songs, steps, favourites, mutations, (song, drawn, favourite, changes) => {
      const events = eventsOf(song, drawn, favourite).map((event) => asMeant(new PassRecorder(song), event));
      const read = parseMoves(asText(mutated({ events }, changes)));
      if (!read.ok) return expect(read.sentence).toMatch(SENTENCE);
      const ridden = runMoves(song, read.value as HandEvent[]);
      if (!ridden.ok) return expect(ridden.sentence).toMatch(SENTENCE);
      expectOpenable(ridden.song);
    }),
    { numRuns: MUTATIONS },
  );
});
