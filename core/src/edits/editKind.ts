import * as Type from '@sinclair/typebox';
import type { TObject, TProperties, TSchema } from '@sinclair/typebox';
import type { ControlId, Refusal, Song } from '../song/index.js';
import type { Range } from '../curve/index.js';
import type { Seconds, Travel } from '../units/index.js';
import type { Edit } from './registry.js';

/** Where +12 dB kept a lane, on folding its trim, from being as loud as both layers together. */
export type Clamping = { readonly control: ControlId; readonly ranges: readonly Range[] };

/** What thinning did to a lane: its points before and after, and how far off the curve is at most (travel), and when. */
export type LaneThinned = {
  readonly control: ControlId;
  readonly before: number;
  readonly after: number;
  readonly maxDeviation: Travel;
  readonly at: Seconds | null;
};

/** What an edit did. Where everything it asked for was refused, the song is the same one and there is no inverse. */
export type Applied = {
  readonly song: Song;
  readonly inverse: Edit | null;
  readonly changed: readonly ControlId[];
  readonly refused: readonly Refusal[];
  /** Of an edit that uses a snapshot: its controls that are gone since. */
  readonly gone?: readonly ControlId[];
  /** Only where something was clamped. */
  readonly clamped?: readonly Clamping[];
  /** Only where something was thinned. */
  readonly thinned?: readonly LaneThinned[];
};

/** All there is to know of one kind of edit; `registry.ts` lists the kinds, and everybody asks them. */
export interface EditKind<E extends { readonly kind: string }> {
  readonly kind: E['kind'];
  /** What it does, as docs/edits.md and the command line's help say it. */
  readonly does: string;
  /** Its fields. The type of the edit is made from it. */
  readonly schema: TSchema;
  /** Whether undo takes it back. Modes, guards, scope, transport and view are no undo steps (rules, 4). */
  readonly isUndoStep: boolean;
  /** Whether it can leave a song as it was though nothing is guarded, because there was nothing to do. */
  readonly canFindNothing: boolean;
  /** An edit from outside with the defaults of what it does not say. */
  complete?(song: Song, edit: E): E;
  /** The sentence for what a song can't take of an edit whose fields are right; null where it can take it. */
  wrong(song: Song, edit: E): string | null;
  /** Pure: the song given is not changed, and what the edit leaves alone is shared with it. */
  apply(song: Song, edit: E): Applied;
  /** What keeps it from being done again whole, once taken back; nothing where it is not said. */
  refusesAgain?(song: Song, edit: E): Refusal[];
  /** What it is called where it can be undone: `Pass 12: Lead level`, `Rest of Fiddle pan`. */
  named(song: Song, edit: E, passNumber: number | null): string;
  /** An edit of this kind out of a draw of eight numbers, 0 … 1, for the harnesses: one that the song's state may refuse. */
  example(song: Song, draw: readonly number[]): E;
}

/** The fields of a kind of edit: those given, and no others. */
export const fieldsOf = <K extends string, P extends TProperties>(
  kind: K,
  fields: P,
): TObject<P & { kind: ReturnType<typeof Type.Literal<K>> }> =>
  Type.Object({ ...fields, kind: Type.Literal(kind) }, { additionalProperties: false });
