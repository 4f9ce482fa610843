import type { Edit } from '@sure-hand/core/edits';
import {
  channelOf,
  controlOf,
  controlsOf,
  controlsOfChannel,
  fullName,
  guardOn,
  laneOf,
  layerPoints,
  type ControlId,
  type Layer,
  type Song,
} from '@sure-hand/core/song';
import { layerInHand } from '@sure-hand/core/pass';
import { togetherWith } from './picking.js';

export const MEND_SCOPES = ['range', 'lane', 'view', 'channel', 'song'] as const;
/** What an act is about: the range of the lanes in hand, they whole, the lanes on view, all lanes of the channel in hand, or of the song. */
export type MendScope = (typeof MEND_SCOPES)[number];
export const SCOPE_NAMES: Readonly<Record<MendScope | 'picked', string>> = {
  picked: 'Picked',
  range: 'Range',
  lane: 'Lane',
  view: 'On view',
  channel: 'Channel',
  song: 'Song',
};

/** What scopes are told from. */
export type ScopeScene = {
  readonly inHand: ControlId | null;
  /** Lanes that are mended together, the one in hand among them. */
  readonly chosen: readonly ControlId[];
  readonly range: readonly [number, number] | null;
  /** What stands in front in the rows on view. */
  readonly onView: readonly ControlId[];
};

/** The controls of a scope, in the song's order; none where nothing is in hand that it would be told from. */
export function controlsInScope(
  song: Song,
  scope: MendScope,
  { inHand, chosen, range, onView }: ScopeScene,
): readonly ControlId[] {
  if (scope === 'song') return [...controlsOf(song).keys()];
  if (scope === 'view') return onView;
  if (!inHand || (scope === 'range' && !range)) return [];
  if (scope !== 'channel') return togetherWith(inHand, chosen);
  return controlsOfChannel(song, channelOf(song, controlOf(song, inHand).channel)!).map(({ id }) => id);
}

/** The layer that a scope is about: of the control in hand the one in hand; of others too, where that is the trim, theirs. */
export const layerInScope = (song: Song, { inHand }: ScopeScene): Layer =>
  inHand ? layerInHand(song, inHand) : 'base';

/** The edit that clears a scope, guarded lanes left out; null where nothing in it has points. */
export function clearEdit(song: Song, scope: MendScope, scene: ScopeScene): (Edit & { kind: 'clear' }) | null {
  const layer = layerInScope(song, scene);
  const controls = controlsInScope(song, scope, scene).filter(
    (id) => layerPoints(laneOf(song, id), layer).length > 0 && !guardOn(song, id),
  );
  if (!controls.length) return null;
  return { kind: 'clear', controls: [...controls], layer, ...(scope === 'range' ? { range: scene.range! } : {}) };
}

/** So many lanes are named; of more the number alone is said. */
const NAMED = 3;

/** What clearing takes away, before it does: how many points of which lanes, and what is left alone. */
export function clearWords(
  song: Song,
  scope: MendScope,
  scene: ScopeScene,
): { readonly will: string; readonly did: string } {
  const edit = clearEdit(song, scope, scene);
  if (!edit) return { will: `Nothing there has points to clear.${leftWords(song, scope, scene)}`, did: '' };
  const layer = edit.layer ?? 'base';
  const countOf = (id: ControlId): number => {
    const { t } = layerPoints(laneOf(song, id), layer);
    return edit.range ? t.filter((one) => one >= edit.range![0] && one < edit.range![1]).length : t.length;
  };
  const counts = edit.controls.map((id) => ({ id, count: countOf(id) })).sort((a, b) => b.count - a.count);
  const all = counts.reduce((sum, { count }) => sum + count, 0);
  const kind = `${layer === 'trim' ? 'trim ' : ''}${all === 1 ? 'point' : 'points'}`;
  const named = counts.slice(0, NAMED).map(({ id, count }) => `${fullName(song, id)} (${count})`);
  const rest = counts.length > NAMED ? ` and ${counts.length - NAMED} more` : '';
  const lanes =
    counts.length === 1 ? fullName(song, counts[0]!.id) : `${counts.length} lanes: ${named.join(', ')}${rest}`;
  return {
    will: `${all} ${kind} of ${lanes} will go.${leftWords(song, scope, scene)}`,
    did: `${all} ${kind} of ${lanes} cleared.`,
  };
}

/** How many lanes with points a guard keeps, in words. */
function leftWords(song: Song, scope: MendScope, scene: ScopeScene): string {
  const layer = layerInScope(song, scene);
  const left = controlsInScope(song, scope, scene).filter(
    (id) => layerPoints(laneOf(song, id), layer).length > 0 && guardOn(song, id),
  );
  return left.length
    ? ` ${left.length === 1 ? `${fullName(song, left[0]!)} is guarded and stays` : `${left.length} lanes are guarded and stay`}.`
    : '';
}
