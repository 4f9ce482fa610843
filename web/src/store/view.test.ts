import { describe, expect, test } from '@jest/globals';
import {
  filtered,
  foldToggled,
  heightsScaled,
  laneChosen,
  lanesPutAway,
  pointsPicked,
  stackToggled,
  pinToggled,
  rangeSet,
  takenInHand,
  viewReducer,
  viewRestored,
  zoomed,
  type ViewState,
} from './viewSlice.js';
import { viewWithin } from './viewWithin.js';
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

  test('mends lanes together as they are chosen, until another one comes into hand by itself', () => {
    const both = from(takenInHand('lead/level'), laneChosen('choir/level'));
    expect(both).toMatchObject({ inHand: 'choir/level', chosen: ['lead/level', 'choir/level'] });
    const back = viewReducer(both, takenInHand('lead/level'));
    expect(back.chosen).toEqual(['lead/level', 'choir/level']);
    expect(viewReducer(back, takenInHand('bass/level')).chosen).toEqual([]);
    expect(viewReducer(both, laneChosen('choir/level'))).toMatchObject({ inHand: 'lead/level', chosen: [] });
    // What is picked goes with the hand, unless it has a part there.
    const picked = { isPass: false, lanes: [{ control: 'lead/level', layer: 'base', times: [3] } as const] };
    expect(viewReducer(viewReducer(back, pointsPicked(picked)), takenInHand('lead/level')).picked).toEqual(picked);
    expect(viewReducer(viewReducer(back, pointsPicked(picked)), takenInHand('choir/level')).picked).toBeNull();
  });

  test('puts all lanes away by one act, and brings them back by the next with what was opened meanwhile', () => {
    const open = from(takenInHand('lead/pan'), stackToggled('lead/mute'), pinToggled('choir'));
    expect(open.stacked).toEqual({ lead: ['lead/pan', 'lead/mute'] });
    const away = viewReducer(open, lanesPutAway());
    expect(away).toMatchObject({
      front: {},
      stacked: {},
      pinned: [],
      inHand: 'lead/mute' === open.inHand ? 'lead/mute' : 'lead/pan',
    });
    const back = viewReducer(viewReducer(away, pinToggled('bass')), lanesPutAway());
    expect(back).toMatchObject({ stacked: open.stacked, front: open.front, pinned: ['choir', 'bass'], away: null });
    // The last lane that is kept open puts the others away as it goes.
    const alone = viewReducer(viewReducer(open, stackToggled('lead/mute')), stackToggled('lead/pan'));
    expect(alone.stacked).toEqual({});
  });

  test('keeps what is looked at as it is left, whatever an older version kept', () => {
    const view = from(filtered({ name: 'lead', onlyCurves: true }));
    expect(from(viewRestored({ filter: view.filter })).filter).toEqual(view.filter);
    expect(from(viewRestored({ filter: { name: 'x' } as never })).filter).toMatchObject({ name: 'x', kind: null });
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
