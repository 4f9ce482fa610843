import type { ValueScale } from '../units/index.js';

/** A parameter of an effect, as a control of the channel that it is inserted in: what it is called there and rests at. */
export type EffectParam = {
  readonly key: string;
  readonly name: string;
  readonly scale: ValueScale;
  readonly rest: number;
};

/** An effect that can be inserted in a channel: every parameter of it is a control. */
export type Effect = { readonly name: string; readonly params: readonly EffectParam[] };

/** The effects that this program knows, by the name that a document calls them. */
export const EFFECTS = new Map<string, Effect>();

/** The slot and the effect of a channel's insert; null where this program does not know it. */
export function effectOf(insert: unknown): { readonly slot: string; readonly effect: Effect } | null {
  const { slot, effect } = (insert ?? {}) as { slot?: unknown; effect?: unknown };
  const known = typeof effect === 'string' ? EFFECTS.get(effect) : undefined;
  return typeof slot === 'string' && known ? { slot, effect: known } : null;
}
