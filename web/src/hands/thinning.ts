import { applyEdit, type Applied, type Edit } from '@sure-hand/core/edits';
import {
  controlOf,
  fullName,
  guardOn,
  isSwitch,
  laneOf,
  layerLaw,
  layerPoints,
  layerScale,
  type ControlId,
  type Layer,
  type Song,
} from '@sure-hand/core/song';
import { valueAt } from '@sure-hand/core/curve';
import { meterMap, printTime, type TimeFormat } from '@sure-hand/core/time';
import { controlsInScope, layerInScope, type MendScope } from './mendScopes.js';

export const THIN_SCOPES = ['range', 'lane', 'channel', 'song'] as const satisfies readonly MendScope[];
/** What is thinned. */
export type ThinScope = (typeof THIN_SCOPES)[number];

/** How closely a curve is kept, in shares of the throw (rules, 7). */
export const TOLERANCES = { fine: 0.002, medium: 0.005, coarse: 0.015 } as const;

/** The edit that thins, as it is asked for; null where nothing of it has a curve. */
export function thinEdit(
  song: Song,
  inHand: ControlId | null,
  {
    scope,
    range,
    tolerance,
  }: { readonly scope: ThinScope; readonly range: readonly [number, number] | null; readonly tolerance: number },
): Edit | null {
  const scene = { inHand, range, onView: [] };
  const layer = scope === 'song' ? 'base' : layerInScope(song, scene);
  const controls = controlsInScope(song, scope, scene).filter(
    (id) =>
      !isSwitch(controlOf(song, id)) && layerPoints(laneOf(song, id), layer).length > 2 && guardOn(song, id) === null,
  );
  if (!controls.length) return null;
  return { kind: 'thin', controls, tolerance, layer, ...(scope === 'range' ? { range: range! } : {}) };
}

/** What a thinning does, in words: points before and after, and where the curve is furthest from what it was, in its own unit. */
export function thinWords(
  song: Song,
  edit: Edit | null,
  format: TimeFormat,
): { readonly counts: string; readonly worst: string } {
  if (edit?.kind !== 'thin') return { counts: 'Nothing there has points to thin.', worst: '' };
  const applied = applyEdit(song, edit);
  const { thinned = [] } = applied;
  const layer = edit.layer ?? 'base';
  const before = edit.controls.reduce((sum, id) => sum + layerPoints(laneOf(song, id), layer).length, 0);
  const gone = thinned.reduce((sum, one) => sum + one.before - one.after, 0);
  const lanes = edit.controls.length === 1 ? fullName(song, edit.controls[0]!) : `${edit.controls.length} lanes`;
  if (!gone) return { counts: `${before} points of ${lanes}: none goes within that.`, worst: '' };
  return {
    counts: `${before} points of ${lanes} become ${before - gone}.`,
    worst: worstWords(song, applied, layer, format),
  };
}

function worstWords(song: Song, { song: after, thinned = [] }: Applied, layer: Layer, format: TimeFormat): string {
  const worst = thinned.reduce((a, b) => (b.maxDeviation > a.maxDeviation ? b : a));
  if (worst.at === null) return '';
  const law = layerLaw(song, worst.control, layer);
  const at = (of: Song): number => valueAt(layerPoints(laneOf(of, worst.control), layer), law, 0, worst.at!);
  const { print } = layerScale(controlOf(song, worst.control), layer);
  const where = printTime(format, meterMap(song.tempo, song.meter), worst.at);
  const name = thinned.length > 1 ? ` of ${fullName(song, worst.control)}` : '';
  return `Furthest off at ${where}${name}: ${print(at(song))} becomes ${print(at(after))}.`;
}
