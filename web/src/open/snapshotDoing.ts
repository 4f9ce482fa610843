import { whyNotPlaced } from '@sure-hand/core/edits';
import type { ControlId, Snapshot } from '@sure-hand/core/song';
import { recalledFrom, snapshotOf } from '@sure-hand/core/snapshots';
import { controlsWords, leftAloneWords } from '../hands/placing.js';
import { duplicated, updatedNow } from '../hands/snapshotActs.js';
import { troubleCame } from '../song/songSlice.js';
import { store } from '../store/store.js';
import { didSomething, snapshotInHand } from '../store/viewSlice.js';
import type { OpenSong } from './openSong.js';

const did = (sentence: string): void => void store.dispatch(didSomething(sentence));
const say = (sentence: string): void => void store.dispatch(troubleCame(sentence));

/** What can be done with a snapshot wherever it is asked for: by a key, from its card, from its panel. */
export class SnapshotDoing {
  constructor(readonly open: Pick<OpenSong, 'session' | 'control' | 'tryout'>) {}

  get #song() {
    return this.open.session.recorder.song;
  }

  /** Poises its values, or, rolling, writes them from now until stop; `ids`: of these controls alone. */
  recall(key: string, ids: readonly ControlId[] | null = null): void {
    const { session } = this.open;
    const snapshot = snapshotOf(this.#song, key);
    if (!snapshot) return;
    const { values: all, gone } = recalledFrom(this.#song, snapshot);
    const values = ids ? pickedOf(all, ids) : all;
    const asked = Object.keys(values);
    const refused = asked.flatMap((control) => {
      const reason = whyNotPlaced(this.#song, control);
      return reason ? [{ control, reason }] : [];
    });
    const left = leftAloneWords(this.#song, { refused, gone: ids ? [] : gone, alike: 0 });
    const free = asked.filter((id) => !refused.some(({ control }) => control === id));
    if (!free.length) return say(`${snapshot.name} would write nothing. ${left}`);
    session.act({ do: 'snapshot', key, values }, performance.now());
    const name = `${snapshot.name}: ${controlsWords(this.#song, free)}`;
    // Gone ones were looked up here: the recorder is given what there is.
    if (session.isRolling) did(`${name} written from here until you stop. ${left}`);
    else did(`${name} poised: Space writes from the line until you stop. ${left}`);
  }

  /** Holds its values aside: heard, and written nowhere; `ids`: of these controls alone. */
  hold(key: string, ids: readonly ControlId[] | null = null): void {
    const snapshot = snapshotOf(this.#song, key);
    if (!snapshot) return;
    const { values: all } = recalledFrom(this.#song, snapshot);
    const values = ids ? pickedOf(all, ids) : all;
    this.open.tryout.hold(values);
    did(
      `${snapshot.name} held aside: ${controlsWords(this.#song, Object.keys(values))}. Nothing is written until P places it.`,
    );
  }

  /** Uses one of its values: held aside while a tryout is on, else poised, or written from now on. */
  use(key: string, id: ControlId): void {
    if (this.open.session.recorder.tryout.isOn) this.hold(key, [id]);
    else this.recall(key, [id]);
  }

  /** Gives it the values that its controls have now. */
  update(key: string): void {
    const snapshot = snapshotOf(this.#song, key);
    if (!snapshot) return;
    if (this.change(snapshot, updatedNow(this.open.session.recorder, snapshot, this.open.control.position)))
      did(`${snapshot.name} updated from here. Undo brings its old values back.`);
  }

  /** Puts another in its place; false where the song does not take it, which is said: it may have been changed elsewhere meanwhile. */
  change(snapshot: Snapshot, changed: Snapshot): boolean {
    return this.open.control.takes({ kind: 'snapshot', remove: snapshot, add: changed });
  }

  duplicate(snapshot: Snapshot): void {
    const add = duplicated(this.#song, snapshot);
    if (this.open.control.takes({ kind: 'snapshot', remove: null, add })) store.dispatch(snapshotInHand(add.key));
  }

  remove(snapshot: Snapshot): void {
    if (!this.open.control.takes({ kind: 'snapshot', remove: snapshot, add: null })) return;
    store.dispatch(snapshotInHand(null));
    did(`Snapshot ${snapshot.name} removed; what it was placed on stays. Undo brings it back.`);
  }
}

const pickedOf = (
  values: { readonly [id: ControlId]: number },
  ids: readonly ControlId[],
): { [id: ControlId]: number } =>
  Object.fromEntries(ids.flatMap((id) => (Object.hasOwn(values, id) ? [[id, values[id]!] as const] : [])));
