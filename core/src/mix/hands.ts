import type { Seconds, Travel } from '../units/index.js';
import { FOUND } from './found.js';

/** What a control does, as the audio thread knows it. */
export const DOES = { curve: 0, held: 1, line: 2 } as const;
const HEADER_BYTES = 8;
const FIELDS = 6;
const LAYER = 0;
const HELD = 1;
const FROM_T = 1;
const FROM_X = 2;
const TO_T = 3;
const TO_X = 4;

/**
 * The hands' shared memory: for every control slot whether a curve, a hand or a return line has it, and where. One
 * thread writes, the audio thread reads; the state goes last when written and first when read, so that a value is
 * never half of one and half of another. It works the same on plain memory.
 */
export class HandTable {
  readonly #version: Int32Array;
  readonly #state: Int32Array;
  readonly #fields: Float64Array;

  /** Bytes needed for so many slots. */
  static bytes(slots: number): number {
    return HEADER_BYTES + 8 * Math.ceil(slots / 2) + slots * FIELDS * 8;
  }

  constructor(buffer: ArrayBuffer | SharedArrayBuffer, slots: number) {
    this.#version = new Int32Array(buffer, 0, 1);
    this.#state = new Int32Array(buffer, HEADER_BYTES, slots);
    this.#fields = new Float64Array(buffer, HEADER_BYTES + 8 * Math.ceil(slots / 2), slots * FIELDS);
  }

  /** Changes with every doing of a hand: the audio thread looks closer only when it has. */
  get version(): number {
    return Atomics.load(this.#version, 0);
  }

  #has(slot: number): boolean {
    return slot >= 0 && slot < this.#state.length;
  }

  #say(slot: number, does: number): void {
    Atomics.store(this.#state, slot, does);
    Atomics.add(this.#version, 0, 1);
  }

  /** Gives a control back to its curve. */
  letGo(slot: number): void {
    if (this.does(slot) === DOES.curve) return;
    this.#say(slot, DOES.curve);
  }

  /** A hand, or what it left held, has the control's base or trim at a travel; what is no number moves nothing. */
  hold(slot: number, isTrim: boolean, x: Travel): void {
    if (!this.#has(slot) || !Number.isFinite(x)) return;
    const at = slot * FIELDS;
    const layer = isTrim ? 1 : 0;
    if (this.does(slot) === DOES.held && this.#fields[at + LAYER] === layer && this.#fields[at + HELD] === x) return;
    this.#fields[at + LAYER] = layer;
    this.#fields[at + HELD] = x;
    this.#say(slot, DOES.held);
  }

  /** The control goes straight from one place to another, and after that follows its curve. */
  line(slot: number, isTrim: boolean, fromT: Seconds, fromX: Travel, toT: Seconds, toX: Travel): void {
    if (!this.#has(slot)) return;
    const at = slot * FIELDS;
    Atomics.store(this.#state, slot, DOES.curve);
    this.#fields[at + LAYER] = isTrim ? 1 : 0;
    this.#fields[at + FROM_T] = fromT;
    this.#fields[at + FROM_X] = fromX;
    this.#fields[at + TO_T] = toT;
    this.#fields[at + TO_X] = toX;
    this.#say(slot, DOES.line);
  }

  /** What a control does: one of {@link DOES}. One past all room, or none, follows its curve. */
  does(slot: number): number {
    return this.#has(slot) ? Atomics.load(this.#state, slot) : DOES.curve;
  }

  isTrim(slot: number): boolean {
    return this.#fields[slot * FIELDS + LAYER] === 1;
  }

  /**
   * Finds where the hand or the line has the control, at the time that stands in `found` (see {@link FOUND}); −1 once a line has
   * landed, when the curve has it again.
   */
  travelInto(found: Float64Array, slot: number, does: number): void {
    const place = slot * FIELDS;
    const fields = this.#fields;
    const t = found[FOUND.at]!;
    const fromT = fields[place + FROM_T]!;
    const toT = fields[place + TO_T]!;
    const fromX = fields[place + FROM_X]!;
    if (does === DOES.held) found[FOUND.travel] = fields[place + HELD]!;
    else if (t >= toT) found[FOUND.travel] = -1;
    else found[FOUND.travel] = fromX + ((fields[place + TO_X]! - fromX) * (t - fromT)) / (toT - fromT);
  }
}
