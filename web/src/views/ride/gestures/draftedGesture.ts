import { drawAmount } from '../pointMarks.js';
import type { Gesture, PointerAt, StageRef } from './gesture.js';

/** What a hand does that drafts an edit: where it is by now, and how far that goes, in words. */
type Drafter = {
  move(at: PointerAt): void;
  end(): void;
  readonly words: string;
  readonly last: { readonly x: number; readonly y: number };
};

/** What is said beside a hand stands so far above it. */
const ABOVE_PX = 26;

/** A gesture whose edit is heard and drawn while it lasts, with how far it goes beside the hand; Escape drops it. */
export function draftedGesture(stage: StageRef, drafter: Drafter): Gesture {
  const drop = (): void => stage.current.open.drafting.drop();
  return {
    move: (at) => drafter.move(at),
    end: () => drafter.end(),
    cancel: drop,
    drop,
    holdsPicture: true,
    draw: (ctx, scale, look) =>
      drawAmount(ctx, look, drafter.words, drafter.last.x, drafter.last.y - ABOVE_PX, scale.width),
    state: () => drafter.words,
  };
}
