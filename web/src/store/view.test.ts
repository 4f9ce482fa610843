import { describe, expect, test } from '@jest/globals';
import {
  foldToggled,
  heightsScaled,
  pinToggled,
  rangeSet,
  takenInHand,
  viewReducer,
  viewRestored,
  viewWithin,
  zoomed,
  type ViewState,
} from './viewSlice.js';
import { testSong } from '../test/songs.js';

const from = (...actions: Parameters<typeof viewReducer>[1][]): ReturnType<typeof viewReducer> =>
  actions.reduce<ReturnType<typeof viewReducer> | undefined>((state, action) => viewReducer(state, action), undefined)!;

describe('the view', () => {
  test('brings the lane taken in hand to the front of its channel, and leaves others theirs', () => {
    const view = from(takenInHand('lead/pan'), takenInHand('choir/mute'));
    expect(view.inHand).toBe('choir/mute');
    expect(view.front).toEqual({ lead: 'lead/pan', choir: 'choir/mute' });
  });

  test('pins and folds, and undoes both the same way', () => {
    expect(from(pinToggled('lead'), foldToggled('Voices'))).toMatchObject({ pinned: ['lead'], folded: ['Voices'] });
    expect(from(pinToggled('lead'), pinToggled('lead')).pinned).toEqual([]);
  });

  test('zooms between half a second and an hour, rows between what can be read and what fits', () => {
    expect([from(zoomed(0.01)).secPerScreen, from(zoomed(1e6)).secPerScreen]).toEqual([0.5, 3600]);
    expect([from(heightsScaled(0.1)).slimPx, from(heightsScaled(99)).tallPx]).toEqual([20, 480]);
  });

  test('is taken up as it was left, and what was not kept is as new', () => {
    const view = from(rangeSet([1, 2]), viewRestored({ secPerScreen: 12, inHand: 'lead/level' }));
    expect(view).toMatchObject({
      secPerScreen: 12,
      inHand: 'lead/level',
      range: null,
      keysShown: false,
      pass: null,
    });
  });
});

test('of channels that have gone nothing is looked at: the hand goes to the level of its channel, or to the first', () => {
  const song = testSong();
  const receipt = { lap: 0, from: 0, to: 1, lanes: [], refused: [], rested: [] };
  const told = (rested: string[]): ViewState => ({
    ...from(takenInHand('fiddle/pan'), takenInHand('voice/send/echo/level'), pinToggled('echo'), pinToggled('voice')),
    pass: { key: 'a', number: 1, receipt: { ...receipt, rested }, close: {} as never, lanes: [], stands: true },
    isPassTold: true,
  });
  const view = viewWithin(told(['voice/pan']), song);
  expect(view).toMatchObject({
    inHand: 'voice/level',
    front: { fiddle: 'fiddle/pan' },
    pinned: ['voice'],
    isPassTold: true,
  });
  expect(viewWithin(told(['echo/level']), song)).toMatchObject({ pass: null, isPassTold: false });
  expect(viewWithin(from(takenInHand('echo/level')), song).inHand).toBe('voice/level');
});
