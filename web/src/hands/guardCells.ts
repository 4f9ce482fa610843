import type { Edit } from '@sure-hand/core/edits';
import {
  CONTROL_KINDS,
  channelOf,
  controlsOfChannel,
  laneOf,
  modeInForce,
  type Channel,
  type ChannelKey,
  type ControlId,
  type ControlKind,
  type Mode,
  type Song,
} from '@sure-hand/core/song';
import { standings, type PassRecorder, type Standing } from '@sure-hand/core/pass';
import type { Seconds } from '@sure-hand/core/units';

/** A column whose cells are on or off: trim, a kind made safe, parked. */
export type SwitchColumn = 'trim' | ControlKind | 'parked';
export const SWITCH_COLUMNS: readonly SwitchColumn[] = ['trim', ...CONTROL_KINDS, 'parked'];
/** What stands in a column of the guards: the mode, or something on or off. */
export type GuardColumn = 'mode' | SwitchColumn;
const GUARD_COLUMNS: readonly GuardColumn[] = ['mode', ...SWITCH_COLUMNS];
export const COLUMN_NAMES: Record<GuardColumn, string> = {
  mode: 'Mode',
  trim: 'Trim',
  level: 'Level',
  pan: 'Pan',
  mute: 'Mute',
  sends: 'Sends',
  inserts: 'Inserts',
  parked: 'Parked',
};

/** One cell of the guards. */
export type GuardCell = { readonly channel: ChannelKey; readonly column: GuardColumn };
/** One that is on or off. */
export type SwitchCell = GuardCell & { readonly column: SwitchColumn };
/** What cells are set to: on or off, or a mode. */
export type CellState = boolean | Mode;

const isSwitch = (cell: GuardCell): cell is SwitchCell => cell.column !== 'mode';

type States = Omit<Edit & { kind: 'states' }, 'kind'>;

/** Whether a channel has controls of a kind, so that they can be made safe. */
const hasKind = (song: Song, channel: Channel, kind: ControlKind): boolean =>
  controlsOfChannel(song, channel).some((control) => control.kind === kind);

/** Whether a cell can be set at all. */
export function canSet(song: Song, { channel, column }: GuardCell): boolean {
  const one = channelOf(song, channel);
  if (!one) return false;
  return column === 'mode' || column === 'trim' || column === 'parked' || hasKind(song, one, column);
}

/** Whether a cell is on. */
export function isCellOn(song: Song, { channel, column }: SwitchCell): boolean {
  const one = channelOf(song, channel)!;
  if (column === 'trim') return one.trim;
  return column === 'parked' ? one.parked : one.safe.includes(column);
}

/** What a hand that begins on a cell sets those to that it passes over: the mode that stands there, or what the cell itself becomes. */
export const carriedFrom = (song: Song, cell: GuardCell): CellState =>
  isSwitch(cell) ? !isCellOn(song, cell) : channelOf(song, cell.channel)!.mode;

/** What sets some cells all at once: modes to a mode, the others on or off; those that can't be set so are left out. */
export function statesFor(song: Song, cells: readonly GuardCell[], to: CellState): States {
  const channels: { [key: ChannelKey]: { mode?: Mode; trim?: boolean; parked?: boolean; safe?: ControlKind[] } } = {};
  for (const cell of cells) {
    if (!canSet(song, cell)) continue;
    const { channel } = cell;
    if (!isSwitch(cell)) {
      if (typeof to === 'string' && channelOf(song, channel)!.mode !== to) (channels[channel] ??= {}).mode = to;
    } else if (typeof to === 'boolean' && isCellOn(song, cell) !== to) {
      const { column } = cell;
      const own = (channels[channel] ??= {});
      if (column === 'trim' || column === 'parked') own[column] = to;
      else {
        const safe = own.safe ?? channelOf(song, channel)!.safe;
        own.safe = to ? [...safe, column] : safe.filter((kind) => kind !== column);
      }
    }
  }
  return { channels };
}

/** What was done to cells, in words: `Level, Pan set`, `Mode touch`. */
export function cellsWords(cells: readonly GuardCell[], to: CellState): string {
  if (typeof to === 'string') return `Mode ${to}`;
  const columns = [...new Set(cells.map(({ column }) => COLUMN_NAMES[column]))].join(', ');
  return `${columns} ${to ? 'set' : 'taken off'}`;
}

/** The cell some rows and columns further, held at the ends. */
export function cellFurther(
  rows: readonly ChannelKey[],
  { channel, column }: GuardCell,
  [down, right]: readonly [number, number],
): GuardCell {
  const within = (i: number, length: number): number => Math.max(0, Math.min(length - 1, i));
  return {
    channel: rows[within(rows.indexOf(channel) + down, rows.length)]!,
    column: GUARD_COLUMNS[within(GUARD_COLUMNS.indexOf(column) + right, GUARD_COLUMNS.length)]!,
  };
}

/**
 * The cells of a rectangle between two, over rows and columns in their order; from a mode only modes, from anything else no mode.
 * None where one of the two is gone.
 */
export function cellsBetween(rows: readonly ChannelKey[], a: GuardCell, b: GuardCell): GuardCell[] {
  const span = (x: number, y: number): [number, number] => [Math.min(x, y), Math.max(x, y)];
  const columns: readonly GuardColumn[] = isSwitch(a) ? SWITCH_COLUMNS : ['mode'];
  const [top, bottom] = span(rows.indexOf(a.channel), rows.indexOf(b.channel));
  const [left, right] = span(columns.indexOf(a.column), isSwitch(a) ? Math.max(0, columns.indexOf(b.column)) : 0);
  if (top < 0) return [];
  return rows
    .slice(top, bottom + 1)
    .flatMap((channel) => columns.slice(left, right + 1).map((column) => ({ channel, column })));
}

/** A single control of a channel that is guarded by itself. */
export type GuardedControl = {
  readonly id: ControlId;
  readonly name: string;
  readonly safe: boolean;
  readonly parked: boolean;
};

export const guardedControls = (song: Song, channel: Channel): GuardedControl[] =>
  controlsOfChannel(song, channel).flatMap(({ id, name }) => {
    const { safe, parked } = laneOf(song, id);
    return safe || parked ? [{ id, name, safe, parked }] : [];
  });

/** What the next play does with a channel, as it stands: how many of its controls it writes by itself or once touched, and which not, with why. */
export type NextPlay = {
  readonly writes: readonly Standing[];
  readonly touched: readonly Standing[];
  readonly wont: readonly Standing[];
};

/** Every channel's {@link NextPlay}, by its key. */
export function nextPlay(recorder: PassRecorder, at: Seconds): ReadonlyMap<ChannelKey, NextPlay> {
  const all = new Map<ChannelKey, { writes: Standing[]; touched: Standing[]; wont: Standing[] }>();
  for (const one of standings(recorder, at)) {
    const key = one.control.slice(0, one.control.indexOf('/'));
    const own = all.get(key) ?? { writes: [], touched: [], wont: [] };
    all.set(key, own);
    if (one.stands === 'wont' || one.stands === 'aside') own.wont.push(one);
    else if (one.stands === 'touched') own.touched.push(one);
    else own.writes.push(one);
  }
  return all;
}

/** In words: `4 by itself`, `3 when touched`, `nothing: in read`. */
export function nextPlayWords(song: Song, channel: Channel, { writes, touched, wont }: NextPlay): string {
  const parts = [
    writes.length ? `${writes.length} by ${writes.length === 1 ? 'itself' : 'themselves'}` : '',
    touched.length ? `${touched.length} when touched` : '',
  ].filter(Boolean);
  const mode = modeInForce(song, channel.key);
  if (!parts.length && (mode === 'off' || mode === 'read')) return `nothing: in ${mode}`;
  const reasons = new Map<string, number>();
  for (const { reason, stands } of wont) {
    const word = stands === 'aside' ? 'held aside' : String(reason);
    reasons.set(word, (reasons.get(word) ?? 0) + 1);
  }
  const left = [...reasons].map(([word, count]) => `${count} ${WONT[word] ?? word}`).join(', ');
  return [parts.join(', ') || 'nothing', left].filter(Boolean).join('; ');
}

const WONT: Record<string, string> = {
  mode: 'by mode',
  parked: 'parked',
  safe: 'safe',
  scope: 'out of scope',
  trim: 'not in dB, under trim',
  range: 'outside the punch range',
};
