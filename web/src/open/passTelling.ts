import { Curve, sameCurve } from '@sure-hand/core/curve';
import type { LoggedLane, Receipt } from '@sure-hand/core/edits';
import { closenessOf, passState } from '@sure-hand/core/pass';
import { controlsOf, layerLaw, type ControlId, type Lane, type Song } from '@sure-hand/core/song';
import type { SpanChange } from '../hands/carrying.js';
import type { HandSession, PassMade } from '../hands/handSession.js';
import type { KeptClose } from '../hands/receiptWords.js';
import { store } from '../store/store.js';
import { didSomething, passMade, passStands, passYielded } from '../store/viewSlice.js';

/** The lanes of a pass as they stood once, and what had been done to its spans by then. */
type PassStood = {
  readonly lanes: { readonly [id: ControlId]: Lane | undefined };
  readonly changes: readonly SpanChange[];
};

/** Whether curves of some lanes are what they were. */
const sameCurves = (a: Lane | undefined, b: Lane | undefined): boolean =>
  sameCurve(a?.points ?? Curve.EMPTY, b?.points ?? Curve.EMPTY) &&
  sameCurve(a?.trim ?? Curve.EMPTY, b?.trim ?? Curve.EMPTY);

/**
 * What is told of the last pass, and until when: its receipt gives way as soon as the next play would do something else,
 * or its lanes are not as it left them.
 */
export class PassTelling {
  /** What the next play would do, besides where it begins, as what is told came. */
  #play: string;
  /** Its lanes as it left them, then as each change of its spans did: taken back or done again they stand as one of these. */
  #states: readonly PassStood[] = [];

  constructor(readonly session: Pick<HandSession, 'recorder' | 'isRolling'>) {
    this.#play = this.#whatPlayDoes();
  }

  passMade({ receipt, lanes, key }: PassMade, number: number | null = null): void {
    const { song } = this.session.recorder;
    this.#states = [{ lanes: lanesOf(song, receipt), changes: [] }];
    this.#play = this.#whatPlayDoes();
    store.dispatch(passMade({ key, number, receipt, close: closeOf(song, receipt, lanes), lanes, stands: true }));
  }

  /** Its spans were carried on, or all of it mended: so it is how it left them. */
  spansChanged(change: SpanChange | null): void {
    const { pass, spanChanges } = store.getState().view;
    if (!pass) return;
    // Done by hand once more after it was taken back: its lanes are known as that has left them, and it counts already.
    const known = this.#stood()?.changes;
    const changes = known ?? (change ? [...spanChanges, change] : spanChanges);
    this.#states = [...this.#states, { lanes: lanesOf(this.session.recorder.song, pass.receipt), changes }];
    store.dispatch(passStands({ stands: true, changes }));
  }

  changed(): void {
    const { pass, isPassTold, did } = store.getState().view;
    if (this.session.isRolling) return;
    if (pass) {
      const stood = this.#stood();
      store.dispatch(passStands({ stands: stood !== undefined, changes: stood?.changes ?? [] }));
    }
    if (!isPassTold && did === null) return void (this.#play = this.#whatPlayDoes());
    if (this.#whatPlayDoes() === this.#play) return;
    this.#play = this.#whatPlayDoes();
    store.dispatch(passYielded());
  }

  /** As what its lanes stand now; undefined where they stand as nothing that is known. */
  #stood(): PassStood | undefined {
    const { song } = this.session.recorder;
    return this.#states.findLast(({ lanes }) =>
      Object.keys(lanes).every((id) => sameCurves(song.lanes[id], lanes[id])),
    );
  }

  did(sentence: string): void {
    this.#play = this.#whatPlayDoes();
    store.dispatch(didSomething(sentence));
  }

  #whatPlayDoes(): string {
    const { song, poised, tryout } = this.session.recorder;
    return JSON.stringify([passState(song), [...poised], tryout.isOn, [...tryout.held]]);
  }
}

const lanesOf = (song: Song, { lanes }: Receipt): { [id: ControlId]: Lane | undefined } =>
  Object.fromEntries(lanes.map(({ control }) => [control, song.lanes[control]]));

/** How closely each lane of a receipt was kept, by the curves that the pass left; nothing of one whose trim was folded since. */
function closeOf(song: Song, receipt: Receipt, lanes: readonly LoggedLane[]): KeptClose {
  return receipt.lanes.map((lane) => {
    const left = lanes.find((one) => one.control === lane.control && one.layer === lane.layer);
    const isThere = controlsOf(song).has(lane.control);
    return left && isThere ? closenessOf(lane, left.after, layerLaw(song, lane.control, lane.layer)) : null;
  });
}
