import { frameWithDefaults } from '@sure-hand/core/formats';
import type { Edit } from '@sure-hand/core/edits';
import type { Lane, Song } from '@sure-hand/core/song';
import type { LaneRow, SongRow } from '../database/models.js';
import { blobOfCurve, curveOfBlob } from '../database/curveBlob.js';

/** A song as the server holds it: its document, and the revision that the next edit must be made on. */
export type KeptSong = { readonly id: number; readonly revision: number; readonly song: Song };

/** A song's document without its lanes, as JSON. */
export const documentOf = ({ lanes: _lanes, ...rest }: Song): string => JSON.stringify(rest);

/** Whether an edit changed anything of a song but its lanes: what it leaves alone it shares with the song before. */
export const frameChanged = (before: Song, after: Song): boolean =>
  Object.keys({ ...before, ...after }).some(
    (field) => field !== 'lanes' && before[field as keyof Song] !== after[field as keyof Song],
  );

/** The controls of which an edit made another lane, put one in or took one out. */
export const lanesChanged = ({ lanes: before }: Song, { lanes: after }: Song): string[] =>
  Object.keys({ ...before, ...after }).filter((id) => before[id] !== after[id]);

/** A lane as a row's columns. */
export function laneColumns({ points, trim, ...state }: Lane): { state: string; points: Buffer; trim: Buffer } {
  return { state: JSON.stringify(state), points: blobOfCurve(points), trim: blobOfCurve(trim) };
}

/** Puts a song together from its rows. */
export function songOfRows(row: SongRow, lanes: readonly LaneRow[]): KeptSong {
  const all = lanes.map((lane): [string, Lane] => [
    lane.control,
    {
      ...(JSON.parse(lane.state) as Omit<Lane, 'points' | 'trim'>),
      points: curveOfBlob(lane.points),
      trim: curveOfBlob(lane.trim),
    },
  ]);
  const song = {
    ...frameWithDefaults(JSON.parse(row.document) as Omit<Song, 'lanes'>),
    lanes: Object.fromEntries(all),
  };
  return { id: row.id, revision: row.revision, song };
}

/** What a step is: its number, by which it is known whatever comes and goes meanwhile, the kind of its edit, and which pass it was, if one. */
export type StepOf = { readonly step: number; readonly kind: Edit['kind']; readonly pass: number | null };
/** What undo and redo would do now, by name and by what it is; null where there is nothing. */
export type History = {
  readonly undo: string | null;
  readonly redo: string | null;
  readonly undoOf: StepOf | null;
  readonly redoOf: StepOf | null;
};
