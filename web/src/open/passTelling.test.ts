import { expect, test } from '@jest/globals';
import { applyEdit } from '@sure-hand/core/edits';
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
