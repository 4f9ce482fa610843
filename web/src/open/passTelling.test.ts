import { expect, test } from '@jest/globals';
import { applyEdit, loggedLanes } from '@sure-hand/core/edits';
import { readSong } from '@sure-hand/core/formats';
import { PassRecorder } from '@sure-hand/core/pass';
import type { Song } from '@sure-hand/core/song';
import { store } from '../store/store.js';
import { didSomething } from '../store/viewSlice.js';
import { PassTelling } from './passTelling.js';

function song(): Song {
  const read = readSong({
    ...{ format: 'sure-hand-song', version: 1, length: 20 },
    channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'touch' }],
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}

test('what is done before anything else in a song that was just opened stays told, until the next play would do something else', () => {
  const session = { recorder: new PassRecorder(song()), isRolling: false };
  const telling = new PassTelling(session);
  store.dispatch(didSomething('All lanes are put away; Shift+A brings them back.'));
  telling.changed();
  expect(store.getState().view.did).toBe('All lanes are put away; Shift+A brings them back.');
  session.recorder.adopt(
    applyEdit(session.recorder.song, { kind: 'channel', channel: 'voice', changes: { mode: 'read' } }).song,
  );
  telling.changed();
  expect(store.getState().view.did).toBe(null);
});

test('what is done to the spans of a pass counts once, be it done again by hand after it was taken back', () => {
  const session = { recorder: new PassRecorder(song()), isRolling: false };
  const { recorder } = session;
  const before = recorder.song;
  const ridden = [
    { do: 'play', from: 0 },
    { t: 1, do: 'touch', control: 'voice/level' },
    { t: 1.5, do: 'move', control: 'voice/level', value: -9 },
    { t: 2, do: 'release', control: 'voice/level' },
    { t: 4, do: 'stop' },
  ] as const;
  const receipts = ridden.flatMap((event) => recorder.handle(event).receipts);
  const left = recorder.song;
  const telling = new PassTelling(session);
  telling.passMade({ receipt: receipts[0]!, lanes: loggedLanes(before, left, ['voice/level']), key: 'one' });
  const { points } = left.lanes['voice/level']!;
  const earlier = applyEdit(left, {
    kind: 'move',
    controls: ['voice/level'],
    points: { 'voice/level': [...points.t] },
    layer: 'base',
    by: { t: -0.5, travel: 0 },
  }).song;
  const goesTo = (to: Song): void => {
    recorder.adopt(to);
    telling.changed();
  };
  for (let again = 0; again < 3; again++) {
    goesTo(earlier);
    telling.spansChanged({ shift: -0.5 });
    expect(store.getState().view).toMatchObject({ spanChanges: [{ shift: -0.5 }], pass: { stands: true } });
    goesTo(left);
    expect(store.getState().view).toMatchObject({ spanChanges: [], pass: { stands: true } });
  }
});
