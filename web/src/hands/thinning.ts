import { valueAt, type Range } from '@sure-hand/core/curve';
import { applyEdit, type Applied, type CurveEdit, type Edit, type LayerOf } from '@sure-hand/core/edits';
import { layerInHand } from '@sure-hand/core/pass';
import {
  controlOf,
  fullName,
  guardOn,
  isSwitch,
  laneOf,
  layerLaw,
  layerPoints,
  layerScale,
  type Song,
} from '@sure-hand/core/song';
import { meterMap, printTime, type TimeFormat } from '@sure-hand/core/time';
import type { FreshSpan } from './carrying.js';
import { controlsInScope, layerInScope, type ScopeScene } from './mendScopes.js';
import { oneStep } from './mending.js';
import { spanOfPicked, type Picked } from './picking.js';

export const THIN_SCOPES = ['picked', 'range', 'lane', 'channel', 'song'] as const;
/** What is thinned. */
export type ThinScope = (typeof THIN_SCOPES)[number];

/** How closely a curve is kept, in shares of the throw (rules, 7). */
export const TOLERANCES = { fine: 0.002, medium: 0.005, coarse: 0.015 } as const;

/** What thinning is told from. */
export type ThinScene = ScopeScene & {
  readonly picked: Picked | null;
  /** Stretches that the last pass wrote, where they are what is picked. */
  readonly spans: readonly FreshSpan[] | null;
};

/** A stretch of one layer of a lane that is thinned; the whole where no range is said. */
type Target = LayerOf & { readonly range: Range | null };

/** What of a song a scope is, before it is looked at what can be thinned. */
function targetsOf(song: Song, scope: ThinScope, scene: ThinScene): readonly Target[] {
  const { range, picked, spans, inHand } = scene;
  if (scope === 'picked') {
    if (spans) return spans.map(({ control, layer, span }) => ({ control, layer, range: span }));
    const lanes = picked?.lanes ?? [];
    return lanes.map((lane) => ({ ...lane, range: spanOfPicked({ lanes: [lane], isPass: false }) }));
  }
  const own = scope === 'song' ? 'base' : layerInScope(song, scene);
  return controlsInScope(song, scope, scene).map((control) => {
    const isTogether = scope === 'range' || scope === 'lane';
    const layer = isTogether && control !== inHand ? layerInHand(song, control) : own;
    return { control, layer, range: scope === 'range' ? range : null };
  });
}

/** What can be thinned of a scope: lanes with points, that nothing guards; no switches. */
export const thinTargets = (song: Song, scope: ThinScope, scene: ThinScene): readonly Target[] =>
  targetsOf(song, scope, scene).filter(
    ({ control, layer, range }) =>
      !isSwitch(controlOf(song, control)) &&
      layerPoints(laneOf(song, control), layer).length > 2 &&
      guardOn(song, control) === null &&
      (range === null || range[1] > range[0]),
  );

/** The edit that thins some stretches; null where there are none. */
export function thinEdit(targets: readonly Target[], tolerance: number): Edit | null {
  const groups = new Map<string, Target[]>();
  for (const target of targets) {
    const key = `${target.layer} ${target.range?.join(' ') ?? ''}`;
    groups.set(key, [...(groups.get(key) ?? []), target]);
  }
  const edits = [...groups.values()].map((some): CurveEdit => {
    const { layer, range } = some[0]!;
    const controls = some.map(({ control }) => control);
    return { kind: 'thin', controls, tolerance, layer, ...(range ? { range } : {}) };
  });
  return edits.length ? oneStep(edits, 'Thinned') : null;
}

/** What a thinning does, in words: points before and after, and where the curve is furthest from what it was, in its own unit. */
export function thinWords(
  song: Song,
  targets: readonly Target[],
  edit: Edit | null,
  format: TimeFormat,
): { readonly counts: string; readonly worst: string } {
  if (!edit) return { counts: 'Nothing there has points to thin.', worst: '' };
  const applied = applyEdit(song, edit);
  const { thinned = [] } = applied;
  const lanes = [...new Map(targets.map((one) => [`${one.layer} ${one.control}`, one])).values()];
  const before = lanes.reduce((sum, one) => sum + layerPoints(laneOf(song, one.control), one.layer).length, 0);
  const gone = thinned.reduce((sum, one) => sum + one.before - one.after, 0);
  const name = lanes.length === 1 ? fullName(song, lanes[0]!.control) : `${lanes.length} lanes`;
  if (!gone) return { counts: `${before} points of ${name}: none goes within that.`, worst: '' };
  return {
    counts: `${before} points of ${name} become ${before - gone}.`,
    worst: worstWords(song, applied, lanes, format),
  };
}

function worstWords(
  song: Song,
  { song: after, thinned = [] }: Applied,
  lanes: readonly LayerOf[],
  format: TimeFormat,
): string {
  const worst = thinned.reduce((a, b) => (b.maxDeviation > a.maxDeviation ? b : a));
  if (worst.at === null) return '';
  const { layer } = lanes.find(({ control }) => control === worst.control)!;
  const law = layerLaw(song, worst.control, layer);
  const at = (of: Song): number => valueAt(layerPoints(laneOf(of, worst.control), layer), law, 0, worst.at!);
  const { print } = layerScale(controlOf(song, worst.control), layer);
  const where = printTime(format, meterMap(song.tempo, song.meter), worst.at);
  const name = thinned.length > 1 ? ` of ${fullName(song, worst.control)}` : '';
  return `Furthest off at ${where}${name}: ${print(at(song))} becomes ${print(at(after))}.`;
}
