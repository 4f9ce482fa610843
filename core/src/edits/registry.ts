import equal from 'fast-deep-equal';
import type { Refusal, Song } from '../song/index.js';
import type { Applied, EditKind } from './editKind.js';
import { whereNotFinite } from './finite.js';
import { addChannel } from './kinds/addChannel.js';
import { bringBack } from './kinds/bringBack.js';
import { carry } from './kinds/carry.js';
import { channel } from './kinds/channel.js';
import { clip } from './kinds/clip.js';
import { describe } from './kinds/describe.js';
import { foldTrim } from './kinds/foldTrim.js';
import { gang } from './kinds/gang.js';
import { guard } from './kinds/guard.js';
import { guardSet } from './kinds/guardSet.js';
import { copyInsert } from './kinds/copyInsert.js';
import { insert } from './kinds/insert.js';
import { insertOrder } from './kinds/insertOrder.js';
import { lanesKind } from './kinds/lanes.js';
import { lift } from './kinds/lift.js';
import { mark } from './kinds/mark.js';
import { output } from './kinds/output.js';
import { pass } from './kinds/pass.js';
import { removeChannel } from './kinds/removeChannel.js';
import { rest } from './kinds/rest.js';
import { send } from './kinds/send.js';
import { settings } from './kinds/settings.js';
import { clear } from './kinds/clear.js';
import { copy } from './kinds/copy.js';
import { draw } from './kinds/draw.js';
import { foldVca } from './kinds/foldVca.js';
import { move } from './kinds/move.js';
import { place } from './kinds/place.js';
import { points } from './kinds/points.js';
import { ramp } from './kinds/ramp.js';
import { scale } from './kinds/scale.js';
import { shape } from './kinds/shape.js';
import { thin } from './kinds/thin.js';
import { printSway } from './kinds/printSway.js';
import { snapshot } from './kinds/snapshot.js';
import { states } from './kinds/states.js';
import { sway } from './kinds/sway.js';
import { title } from './kinds/title.js';
import { together } from './kinds/together.js';
import { vca } from './kinds/vca.js';

/** Every kind of edit there is, in the order of the docs. A new kind is a file in `kinds/` and its line here. */
export const EDIT_KINDS = [
  place,
  ramp,
  lift,
  move,
  scale,
  clear,
  copy,
  thin,
  shape,
  points,
  draw,
  together,
  foldTrim,
  foldVca,
  carry,
  bringBack,
  pass,
  rest,
  lanesKind,
  channel,
  guard,
  states,
  settings,
  mark,
  clip,
  describe,
  title,
  addChannel,
  removeChannel,
  output,
  send,
  insert,
  insertOrder,
  copyInsert,
  sway,
  printSway,
  gang,
  vca,
  snapshot,
  guardSet,
] as const;

type EditOf<Kind> = Kind extends EditKind<infer E> ? E : never;
/** Every change there is to a song, as data. Browser, server and command line apply the same ones. */
export type Edit = EditOf<(typeof EDIT_KINDS)[number]>;

// Each kind takes its own edits, which a list of them all cannot say.
const KINDS = new Map(EDIT_KINDS.map((one) => [one.kind, one as unknown as EditKind<Edit>]));

/** The kind of an edit by its name; undefined where there is none. */
export const editKind = (kind: string): EditKind<Edit> | undefined => KINDS.get(kind as Edit['kind']);
const kindOf = (edit: Edit): EditKind<Edit> => KINDS.get(edit.kind)!;

/**
 * The sentence for what a song can't take of an edit that was made in this program, where its types hold it to its shape: numbers that are none,
 * and what its kind says. Null where it can take it. What comes from outside is read instead.
 */
export function whyNotMade(song: Song, edit: Edit): string | null {
  const where = whereNotFinite(edit);
  return where === null
    ? kindOf(edit).wrong(song, edit)
    : `The ${edit.kind} edit has no number at ${where}: type one, such as 0.5.`;
}

/** What was applied to a song lately, as long as the song itself is held: what is counted first, then heard, then kept is one act. */
type Late = { readonly edit: Edit; readonly applied: Applied; readonly isTaken?: true };
const lately = new WeakMap<Song, readonly Late[]>();
/** So many are held of one song, the last one first: a sheet tells of some edits side by side. */
const HELD = 3;

function holdApplied(song: Song, late: Late): void {
  lately.set(song, [late, ...(lately.get(song) ?? [])].slice(0, HELD));
}

/**
 * Applies an edit to a song. Pure: the song given is not changed, and what the edit leaves alone is shared with it; the same edit of
 * the same song, soon after, gives back the very same.
 */
export function applyEdit(song: Song, edit: Edit): Applied {
  // One that was worked out elsewhere may be asked for again in the same words.
  const late = lately.get(song)?.find((one) => one.edit === edit || (one.isTaken && equal(one.edit, edit)));
  if (late) return late.applied;
  const applied = kindOf(edit).apply(song, edit);
  holdApplied(song, { edit, applied });
  return applied;
}

/** Takes what applying an edit to a song came to from where it was worked out, such as another thread: {@link applyEdit} of an equal one gives it back. */
export function takeApplied(song: Song, edit: Edit, applied: Applied): void {
  holdApplied(song, { edit, applied, isTaken: true });
}

/** Whether undo takes an edit back. Modes, guards, scope, transport and view are no undo steps (rules, 4). */
export const isUndoStep = (edit: Edit): boolean => kindOf(edit).isUndoStep;

/** An edit that was checked before, and stood as JSON since: as it is held, its points as curves. */
export const completedEdit = (song: Song, edit: Edit): Edit => editKind(edit.kind)?.complete?.(song, edit) ?? edit;

/** What keeps an edit from being done again: lanes of a pass that have been made safe or parked since it was made. */
export const guardedSince = (song: Song, edit: Edit): Refusal[] => kindOf(edit).refusesAgain?.(song, edit) ?? [];

/** What an edit is called where it can be undone: `Pass 12: Lead level`, `Rest of Fiddle pan`. */
export const nameOfEdit = (song: Song, edit: Edit, passNumber: number | null): string =>
  kindOf(edit).named(song, edit, passNumber);
