import { controlOf, fullName, laneOf, type ControlId, type Song } from '@sure-hand/core/song';
import type { SessionClock } from '../engine/pageClock.js';
import { Comparison } from '../hands/comparison.js';
import { HandSession, type EditsMade, type HandEngine, type HandJournal, type PassMade } from '../hands/handSession.js';
import type { PassJournalist } from '../song/passJournal.js';
import { fetchLastPass } from '../song/songApi.js';
import { troubleCame } from '../song/songSlice.js';
import { songSync, store } from '../store/store.js';
import { HandKeeping } from './handKeeping.js';
import { NextTask } from './nextTask.js';
import { PassTelling } from './passTelling.js';
import { noteReceipt } from './probe.js';

/** An engine that says what becomes of the sound by itself. */
export type SoundingEngine = HandEngine & {
  onPlanned: () => void;
  onEnded: () => void;
  onLost: () => void;
};

/** Word of every change of the hands, for whoever draws it. */
export class Word {
  version = 0;
  /** Is told first of all. */
  first: () => void = () => undefined;
  readonly #listeners = new Set<() => void>();

  changed(): void {
    this.version++;
    this.first();
    for (const listener of this.#listeners) listener();
  }

  subscribe(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }
}

/** The hands on a song: the session, what keeps what they led to, what compares, and what is told of the last pass. */
export type Hands = {
  readonly session: HandSession;
  readonly keeping: HandKeeping;
  readonly comparison: Comparison;
  readonly telling: PassTelling;
  /** What is told of a pass, as a stop has ended it. */
  readonly next: NextTask;
};

/** What hands on a song need of the page: what plays it, what tells the time, who is told, where an open pass is written down. */
type PageOf = {
  readonly engine: SoundingEngine;
  readonly clock: SessionClock;
  readonly word: Word;
  readonly journal: HandJournal & Pick<PassJournalist, 'forget'>;
};

export function handsOn(id: number, song: Song, { engine, clock, word, journal }: PageOf): Hands {
  const keeping = new HandKeeping(songSync, journal);
  // A stop commits, and is heard; what is told and shown of it comes in the task after. Whatever comes before that finds it told.
  const next = new NextTask();
  const listener = {
    onEdits: (made: EditsMade) => {
      next.flush();
      const { edits, rolled, after } = made;
      keeping.made(made);
      const rest = edits.find((edit) => edit.kind === 'rest');
      if (rest && !rolled) telling.did(restedWords(after, Object.keys(rest.values)));
    },
    onPass: (made: PassMade) => {
      noteReceipt(made);
      next.do(() => telling.passMade(made));
      if (made.lanes.length) comparison.passMade({ number: null, lanes: made.lanes });
    },
    onHand: () => {
      next.flush();
      if (comparison.heard) comparison.asItStands();
    },
    onTrouble: say,
    onChange: () => {
      if (next.waits) next.do(() => word.changed());
      else word.changed();
    },
  };
  const session: HandSession = new HandSession(song, engine, listener, journal, clock);
  const telling = new PassTelling(session);
  word.first = () => telling.changed();
  engine.onPlanned = () => session.planned();
  engine.onEnded = () => session.ended(clock.now());
  engine.onLost = () => {
    session.stop(clock.now());
    say('The audio output went away, and the song was stopped; what was ridden up to there is kept.');
  };
  const comparison = new Comparison({
    song: () => session.recorder.song,
    hear: (heard) => session.hear(heard),
    fetchLast: () => fetchLastPass(id).catch(() => null),
  });
  return { session, keeping, comparison, telling, next };
}

export const say = (sentence: string): void => void store.dispatch(troubleCame(sentence));

/** What a stopped hand has just set for good. */
const restedWords = (song: Song, ids: readonly ControlId[]): string =>
  `${ids.map((one) => `${fullName(song, one)} rests at ${controlOf(song, one).scale.print(laneOf(song, one).rest)}`).join(', ')}, for the whole song.`;

/** What follows the store: hands on a song, as it was when they came on it; `onChannels` is told where other channels are in it. */
type Followed = {
  readonly id: number;
  readonly song: Song;
  readonly hands: Pick<Hands, 'session' | 'comparison'>;
  readonly word: Word;
  readonly onChannels: (song: Song) => void;
};

/** The session has the song as the store has it, from whatever a change came. Gives back what ends it. */
export function followStore({ id, song, hands: { session, comparison }, word, onChannels }: Followed): () => void {
  let seen = song;
  return store.subscribe(() => {
    const now = store.getState().song;
    if (now.id !== id || !now.song || now.song === seen) return;
    seen = now.song;
    if (now.song.channels !== session.recorder.song.channels) onChannels(now.song);
    session.setSong(now.song);
    comparison.songChanged();
    word.changed();
  });
}
