import type { ControlId } from '@sure-hand/core/song';
import { clamp } from '@sure-hand/core/units';
import { HAND_PX, type SongControl } from './songControl.js';

/**
 * A pointer that has grabbed a cap: relative, so that nothing jumps on grabbing, and captured, so that it goes on
 * outside the lane. The drag is computed from where it began; Shift begins a finer one from where the cap is.
 */
export class HandDrag {
  #fromY: number;
  #fromTravel: number;
  #travel: number;
  #fine = false;

  constructor(
    readonly control: Pick<SongControl, 'touch' | 'moveTo' | 'release' | 'travelNow'>,
    readonly id: ControlId,
    y: number,
    atMs: number,
  ) {
    control.touch(id, atMs);
    this.#fromY = y;
    this.#travel = this.#fromTravel = control.travelNow(id);
  }

  move(y: number, fine: boolean, atMs: number): void {
    if (fine !== this.#fine) {
      this.#fine = fine;
      this.#fromY = y;
      this.#fromTravel = this.#travel;
    }
    const to = clamp(this.#fromTravel + (this.#fromY - y) / (fine ? HAND_PX.fine : HAND_PX.coarse), 0, 1);
    if (to === this.#travel) return;
    this.#travel = to;
    this.control.moveTo(this.id, to, atMs);
  }

  end(atMs: number): void {
    this.control.release(this.id, atMs);
  }
}

/** A pointer, or a key, on a switch: it is turned over where it goes down, and let go of where it comes up. */
export class SwitchPress {
  constructor(
    readonly control: Pick<SongControl, 'pressSwitch' | 'release'>,
    readonly id: ControlId,
    atMs: number,
  ) {
    control.pressSwitch(id, atMs);
  }

  /** A switch is not dragged. */
  move(): void {
    // Wherever the pointer goes meanwhile, the switch stays as it was pressed.
  }

  end(atMs: number): void {
    this.control.release(this.id, atMs);
  }
}
