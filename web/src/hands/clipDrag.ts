import { shapedClip, type ChannelKey, type Clip, type ClipShaping } from '@sure-hand/core/song';

/** What of a clip a pointer can take hold of. */
export type ClipPart = 'fadeIn' | 'fadeOut' | 'gain';
/** So much pointer movement is one dB of clip gain. */
const PX_PER_DB = 8;
const FINER = 4;

type Grip = {
  readonly channel: ChannelKey;
  readonly clip: Clip;
  readonly part: ClipPart;
  readonly x: number;
  readonly y: number;
  readonly pxPerSec: number;
};

/** A pointer that has hold of a clip's fade or gain: computed from where it began, an edit only once it ends. */
export class ClipDrag {
  #changes: ClipShaping = {};

  constructor(readonly grip: Grip) {}

  /** The clip as it would be if the pointer let go now. */
  get draft(): Clip {
    return shapedClip(this.grip.clip, this.#changes);
  }

  get changes(): ClipShaping {
    return this.#changes;
  }

  move(x: number, y: number, fine: boolean): void {
    const { clip, part, x: fromX, y: fromY, pxPerSec } = this.grip;
    const slower = fine ? FINER : 1;
    const bySec = (x - fromX) / pxPerSec / slower;
    switch (part) {
      case 'fadeIn':
        this.#changes = { fadeIn: clip.fadeIn + bySec };
        return;
      case 'fadeOut':
        this.#changes = { fadeOut: Math.min(clip.length - clip.fadeIn, clip.fadeOut - bySec) };
        return;
      case 'gain':
        // Tenths of a dB, as they are shown.
        this.#changes = { gain: Math.round(10 * (clip.gain + (fromY - y) / PX_PER_DB / slower)) / 10 };
    }
  }
}
