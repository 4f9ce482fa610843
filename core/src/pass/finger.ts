import type { ControlId, Reason } from '../song/index.js';
import type { Seconds, Travel } from '../units/index.js';

/**
 * What a finger follows that no hand of its own moves: the control in whose gang it is led, and how far it stands from
 * that one's travel; it goes on beyond the throw's ends, so that differences come back (rules, 6).
 */
export type Led = { readonly by: ControlId; readonly offset: Travel };

/** A hand on one control, from its press to its release. */
export class Finger {
  /** Let go by Esc: it counts for nothing until it touches anew. */
  letGo = false;
  /** A guard of its control changed under it: it is heard, but writes nothing until it touches anew. */
  spent = false;
  wrote = false;
  rested = false;
  /** A resting value it has set that is not yet kept by an edit. */
  restToKeep: number | null = null;
  /** A stopped move of it has been refused already. */
  refusedStopped = false;
  /** Its refusal stands on a receipt already. */
  reported = false;
  /** It holds its control aside: it writes nothing, and gives values of the base (rules, 6, Tryout). */
  aside = false;
  /** It has the base in hand though its channel may trim: it holds it aside, or is on what a snapshot has begun. */
  isOnBase = false;
  /** Whom it follows; null where a hand is on its own control. */
  led: Led | null = null;
  /** Of one that is led: a hand, let go of by Esc, that is still down on its control and counts for nothing. */
  beneath: Finger | null = null;

  /**
   * @param value where the hand is, in the unit of the layer in hand
   * @param reason why its control could not be written at the press; null where it could
   * @param releaseAt for a control without a touch sensor, when it counts as let go unless it moves again
   */
  constructor(
    public value: number,
    readonly reason: Reason | null,
    public releaseAt: Seconds | null,
  ) {}

  /** Whether what it does can be written. */
  get counts(): boolean {
    return !this.letGo && !this.spent;
  }

  /** Whether somebody holds it: a hand, or one that leads it. */
  get holds(): boolean {
    return !this.letGo;
  }

  /** Whether a hand of its own has it, whose sensor tells when it leaves. */
  get isSure(): boolean {
    return this.holds && !this.led && this.releaseAt === null;
  }

  /** The same finger, as it is now. */
  copy(): Finger {
    const copy = Object.assign(new Finger(this.value, this.reason, this.releaseAt), this);
    copy.beneath = this.beneath?.copy() ?? null;
    return copy;
  }

  /** A real touch takes over a hand without a sensor: it is the same press going on. */
  takeOver(other: Finger): void {
    this.wrote = other.wrote;
    this.rested = other.rested;
    this.restToKeep = other.restToKeep;
    this.reported = other.reported;
  }
}
