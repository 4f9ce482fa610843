import { expect, test } from '@jest/globals';
import type { Edit } from '@sure-hand/core/edits';
import { linePoint } from '@sure-hand/core/curve';
import type { Song } from '@sure-hand/core/song';
import { QuietEngine } from '../test/quietEngine.js';
import { testSong } from '../test/songs.js';
import { Drafting } from './drafting.js';
import { HandSession } from './handSession.js';
import { SongControl } from './songControl.js';

const LEVEL = 'voice/level';
/** A session on a song, what is kept of it, and what is said. */
function desk() {
  const song = testSong({ lanes: { [LEVEL]: { points: [linePoint(0, -20), linePoint(30, -6)] } } });
  const engine = new QuietEngine(song);
  const kept: Edit[] = [];
  const said: string[] = [];
  const nothing = (): void => undefined;
  const listener = { onEdits: nothing, onPass: nothing, onChange: nothing, onHand: nothing, onTrouble: nothing };
  const session = new HandSession(song, engine, listener, undefined, engine);
  const control = new SongControl(session, engine as never, {
    makeEdit: (edit) => void kept.push(edit),
    step: async () => undefined,
    workAhead: () => null,
    say: (sentence) => void said.push(sentence),
    onSpanChange: nothing,
    onPlay: nothing,
  });
  const comparison = { heard: null, asItStands: nothing } as never;
  return { song, session, control, kept, said, drafting: new Drafting({ session, comparison, control }) };
}
const allFinite = (song: Song): boolean => !/null/.test(JSON.stringify(song.lanes[LEVEL]!.points));

test('what is half typed is never heard: a draft with no number in it, or out of its range, leaves the song as it stands', () => {
  const { song, session, drafting, control, kept, said } = desk();
  const good: Edit = { kind: 'lift', controls: [LEVEL], range: [5, 10], travel: 0.1 };
  const bad: Edit[] = [
    { kind: 'lift', controls: [LEVEL], range: [5, 10], travel: NaN },
    { kind: 'lift', controls: [LEVEL], range: [5, Infinity], travel: 0.1 },
    { kind: 'place', values: { [LEVEL]: NaN }, range: [5, 10], edge: 0.1 },
    { kind: 'place', values: { [LEVEL]: 99 }, range: [5, 10], edge: 0.1 },
    { kind: 'place', values: { [LEVEL]: -3 }, range: [5, 10], edge: NaN },
    { kind: 'settings', changes: { returnTime: NaN } },
  ];
  for (const edit of bad) {
    drafting.draft(good);
    expect(session.heardSong).not.toBe(song);
    expect(drafting.draft(edit)).toMatchObject({ changed: [], inverse: null });
    expect(session.heardSong).toBe(song);
    expect(allFinite(session.heardSong)).toBe(true);
    control.makeEdit(edit);
    control.mend(edit);
  }
  expect(kept).toEqual([]);
  expect(said).toHaveLength(2 * bad.length);
  for (const sentence of said) expect(sentence).toMatch(/[^.]\.$/);
  expect(said[0]).toBe('The lift edit has no number at /travel: type one, such as 0.5.');
});

test('a hand that gives no number moves nothing', () => {
  const { session } = desk();
  session.act({ do: 'touch', control: LEVEL }, 0);
  const before = session.recorder.capAt(LEVEL, 0);
  session.act({ do: 'move', control: LEVEL, value: NaN }, 1);
  session.act({ do: 'aside', values: { [LEVEL]: Infinity } }, 2);
  expect(session.recorder.capAt(LEVEL, 0)).toBe(before);
  expect(session.recorder.tryout.held.size).toBe(0);
});
