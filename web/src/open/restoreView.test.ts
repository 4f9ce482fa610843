import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { store } from '../store/store.js';
import { songClosed, songOpened } from '../song/songSlice.js';
import { testSong } from '../test/songs.js';
import { restoreView } from './restoreView.js';

const kept = new Map<string, string>();

beforeEach(() => {
  kept.clear();
  Object.defineProperty(globalThis, 'localStorage', {
    value: { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, v: string) => kept.set(key, v) },
    configurable: true,
  });
});
afterEach(() => {
  store.dispatch(songClosed());
  delete (globalThis as { localStorage?: unknown }).localStorage;
});

/** The view of a song as it comes back of what a browser has kept of it. */
function restored(of: object): ReturnType<typeof store.getState>['view'] {
  const song = testSong({ sections: [{ t: 0, name: 'Verse' }] });
  kept.set('sure-hand/view/1', JSON.stringify(of));
  store.dispatch(
    songOpened({
      id: 1,
      revision: 1,
      song,
      files: {},
      history: { undo: null, redo: null, undoOf: null },
      lastPass: 0,
    } as never),
  );
  restoreView(1, song);
  return store.getState().view;
}

test('a view that is taken up again names nothing that has gone from the song meanwhile', () => {
  const view = restored({
    inHand: 'voice/level',
    chosen: ['voice/level', 'gone/level'],
    front: { voice: 'voice/pan', gone: 'gone/level' },
    stacked: { gone: ['gone/level'], fiddle: ['fiddle/pan', 'fiddle/send gone'] },
    pinned: ['gone', 'fiddle'],
    desk: { px: 44, own: { gone: 160 }, throws: 'send of gone', open: ['gone'], family: null, vca: 'gone' },
    away: { front: { gone: 'gone/level' }, stacked: {}, pinned: ['gone'] },
    snapshot: 'gone',
    against: 'gone',
    places: [0, 77],
    range: [3, 1000],
  });
  expect(view).toMatchObject({
    inHand: 'voice/level',
    chosen: ['voice/level'],
    front: { voice: 'voice/pan' },
    stacked: { fiddle: ['fiddle/pan'] },
    pinned: ['fiddle'],
    desk: { px: 44, own: {}, throws: null, open: [], vca: null },
    away: { front: {}, pinned: [] },
    snapshot: null,
    against: null,
    places: [0],
    range: null,
  });
  expect(JSON.stringify(view)).not.toContain('gone');
});

test('what a browser has kept in another shape is left aside, the rest is taken up', () => {
  const view = restored({
    inHand: 'voice/pan',
    chosen: 'voice/level',
    pinned: null,
    tallPx: 'high',
    headPx: null,
    folded: ['Voices'],
    grid: null,
    range: [5, 2],
    filter: { name: 3, onlyCurves: true },
    desk: { px: 44, open: 'gone' },
    something: 1,
  });
  expect(view).toMatchObject({ inHand: 'voice/pan', chosen: [], pinned: [], tallPx: 200, headPx: 216 });
  expect(view).toMatchObject({ folded: ['Voices'], grid: null, range: null, desk: { px: 44, open: [] } });
  expect(view.filter).toMatchObject({ name: '', onlyCurves: true });
  expect(view).not.toHaveProperty('something');
});
