import { expect } from '@jest/globals';
import fc from 'fast-check';
import { EDIT_KINDS, applyEdit, editKind, type Edit } from '../edits/index.js';
import { guardOn, swayWithDefaults, type Song } from '../song/index.js';
import { linePoint } from '../curve/index.js';
import { testSong } from './songs.js';

/** Numbers from which an edit is made: what it is about depends on the song that it meets. */
export type Draw = { readonly kind: Edit['kind']; readonly xs: readonly number[] };

const share = fc.double({ min: 0, max: 1, noNaN: true, maxExcluded: true });
/** Draws over some kinds of edit. */
export const drawsOf = (kinds: readonly Edit['kind'][]): fc.Arbitrary<Draw> =>
  fc.record({ kind: fc.constantFrom(...kinds), xs: fc.array(share, { minLength: 8, maxLength: 8 }) });
/** Draws over every kind of edit in the registry: none can be forgotten. */
export const draws = drawsOf(EDIT_KINDS.map(({ kind }) => kind));
/** Draws over the kinds that set modes, guards and settings. */
export const guardDraws = drawsOf(EDIT_KINDS.flatMap(({ kind, isUndoStep }) => (isUndoStep ? [] : [kind])));

/** A song with a track that has clips and inserts, one that listens to it, a bus with a send to it, a VCA, marks of every list. */
export const anySong = (): Song => ({
  ...testSong({
    channels: [
      {
        ...{ key: 'voice', kind: 'track', name: 'Voice', mode: 'touch' },
        sends: [{ bus: 'hall', tap: 'pre', pan: 'own' }],
        inserts: [
          { slot: 'eq', effect: 'equaliser', settings: {} },
          { slot: 'echo', effect: 'delay', settings: { beats: 1 } },
        ],
      },
      {
        ...{ key: 'fiddle', kind: 'track', name: 'Fiddle' },
        inserts: [{ slot: 'comp', effect: 'compressor', settings: { key: 'voice' } }],
      },
      { key: 'hall', kind: 'bus', name: 'Hall' },
      { key: 'all', kind: 'vca', name: 'All', members: ['voice', 'fiddle'] },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
    lanes: {
      'voice/pan': { sway: swayWithDefaults({ wave: 'triangle', depth: 0.2 }) },
      'voice/insert/eq/gain2': { sway: swayWithDefaults({ hz: 1.5 }) },
      'voice/insert/eq/gain2/sway': { points: [linePoint(2, 0.1), linePoint(9, 0.4)] },
    },
  }),
  sections: [{ t: 0, name: 'Intro' }],
  notes: [{ t: 3, text: 'Louder' }],
});

/** The edit that numbers stand for on a song. It may be one that the song's state refuses. */
export const editFrom = (song: Song, { kind, xs }: Draw): Edit => editKind(kind)!.example(song, xs);

/** An edit that was applied, and what takes it back. */
export type Step = { readonly edit: Edit; readonly inverse: Edit };

/**
 * Takes an edit back, which leaves the song as it was before; whether it could. Only a guard on what it wrote, or put in,
 * keeps it from that, and then from all of it: one that a pass has heeded, or that a channel has on all its controls.
 */
export function expectTakenBack(before: Song, after: Song, { inverse }: Step): boolean {
  const back = applyEdit(after, inverse);
  if (back.refused.length) {
    for (const { control, reason } of back.refused) expect(guardOn(after, control)).toBe(reason);
    expect(back.song).toBe(after);
    return false;
  }
  expect(back.song).toEqual(before);
  return true;
}
