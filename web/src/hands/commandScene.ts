import { channelOf, clipAt, controlOf, controlsOfChannel, type Channel, type ControlId } from '@sure-hand/core/song';
import { snap, meterMap, type Grid } from '@sure-hand/core/time';
import type { Asked } from './asked.js';
import { carriesTo, carryStops, freshSpans, nextStop, spanToCarry, spansToCarry, type FreshSpan } from './carrying.js';
import type { Comparison } from './comparison.js';
import { channelsOf } from './families.js';
import type { LaneFilter } from './laneFilter.js';
import type { Range } from '@sure-hand/core/curve';
import type { GuardDoing } from './guardDoing.js';
import type { MendScene } from './mending.js';
import type { TryingOut } from './tryingOut.js';

/** What a command works on, at the moment its key is pressed. */
export type CommandScene = MendScene & {
  readonly comparison: Comparison;
  readonly tryout: TryingOut;
  readonly guards: GuardDoing;
  /** Where the last placing went; null while it is not what was done last. */
  readonly placed: readonly Range[] | null;
  /** The snapshot in hand, by its key. */
  readonly snapshot: string | null;
  takeSnapshot(key: string): void;
  /** Poises a snapshot's values, or, rolling, writes them from now on. */
  recall(key: string): void;
  holdSnapshot(key: string): void;
  updateSnapshot(key: string): void;
  /** Controls in the order Tab goes through them: what stands in front in the rows on view. */
  readonly onView: readonly ControlId[];
  readonly secPerScreen: number;
  takeInHand(id: ControlId): void;
  zoom(secPerScreen: number): void;
  scaleHeights(factor: number): void;
  showKeys(): void;
  typeValue(): void;
  find(): void;
  /** Opens something to be typed into. */
  ask(asked: Asked): void;
  /** The next drag over a lane draws: while a key is held, or once. */
  draw(how: 'held' | 'once' | null): void;
  readonly filter: LaneFilter;
  readonly grid: Grid | null;
  /** Looks at other rows. */
  look(changes: Partial<LaneFilter>): void;
  putLanesAway(): void;
  /** Keeps a lane open below the others of its channel, or puts it away. */
  stack(id: ControlId): void;
  foldFamily(channel: Channel): void;
  /** A lane is mended with the one in hand, or no more. */
  choose(id: ControlId): void;
  /** The lane in hand is mended alone again. */
  mendAlone(): void;
  snapTo(grid: Grid | null): void;
  /** Points as numbers, beside the lanes, or no more. */
  showNumbers(): void;
  clearMeters(): void;
  /** Strips of the Desk take the next width: all of them, or those of one channel. */
  widenStrips(channel: string | null): void;
  /** The next of what can stand on all throws. */
  nextThrows(): void;
  /** The members of a VCA, or the sends to a bus, stand beside it, or no more. */
  openMembers(channel: string): void;
  /** All channels of a channel's family are chosen, or of its gang: their modes, and what is mended, go together. */
  chooseFamily(channel: Channel): void;
  chooseGang(channel: Channel): void;
  /** Why a control is heard as loud as it is, in one sentence. */
  why(id: ControlId): string;
  /** Keeps the pass that was cut short, or drops it; nothing where there is none. */
  settleCutShort(isKept: boolean): void;
  showView(step: 1 | -1): void;
  /** Tells what the last pass did once more. */
  recallPass(): void;
};

/** A press that acts on the control in hand; nothing where none is. */
export const withHand = (act: (scene: CommandScene, id: ControlId) => void) => (scene: CommandScene) => {
  if (scene.inHand) act(scene, scene.inHand);
};
/** The channel of the control in hand. */
export const channelInHand = ({ song, inHand }: Pick<CommandScene, 'song' | 'inHand'>): string | null =>
  inHand ? controlOf(song, inHand).channel : null;
/** The channels that a mode or trim is set for: those that are chosen, else the one in hand. */
export const channelsInHand = (scene: Pick<CommandScene, 'song' | 'inHand' | 'chosen'>): readonly string[] => {
  if (scene.chosen.length) return channelsOf(scene.song, scene.chosen);
  const key = channelInHand(scene);
  return key ? [key] : [];
};
/** The moment a key is pressed, on the page's clock in milliseconds. */
export const now = (): number => performance.now();

/** Takes the row after the one in hand, or before it, round the end. */
export function takeNext(scene: CommandScene, step: 1 | -1): void {
  const { onView, inHand } = scene;
  if (!onView.length) return;
  const at = inHand ? onView.indexOf(inHand) : -1;
  scene.takeInHand(onView[(at + step + onView.length) % onView.length]!);
}

/** Takes the next lane of the channel in hand, or the one before. */
export function takeLane(scene: CommandScene, step: 1 | -1): void {
  const key = channelInHand(scene);
  if (!key || !scene.inHand) return;
  const lanes = controlsOfChannel(scene.song, channelOf(scene.song, key)!).map((control) => control.id);
  scene.takeInHand(lanes[(lanes.indexOf(scene.inHand) + step + lanes.length) % lanes.length]!);
}

/** Sets the beginning or the end of the range at the line. */
export function setEdge(scene: CommandScene, edge: 'in' | 'out'): void {
  const { position } = scene.control;
  const [from, to] = scene.range ?? [0, scene.song.length];
  if (edge === 'in') scene.setRange([position, to > position ? to : scene.song.length]);
  else if (position > 0) scene.setRange([from < position ? from : 0, position]);
}

/** The section that begins at the line, or a new one at the beat nearest to it. */
export function askSection({ song, control, ask }: Pick<CommandScene, 'song' | 'control' | 'ask'>): void {
  const map = meterMap(song.tempo, song.meter);
  const t = snap({ map, sections: song.sections, format: 'bars' }, 'beat', control.position);
  const mark = song.sections.find((section) => Math.abs(section.t - t) < 1e-3) ?? null;
  ask({ what: 'section', mark, t: mark?.t ?? t });
}

/** The note at the line, or a new one there about the channel in hand. */
export function askNote(scene: Pick<CommandScene, 'song' | 'control' | 'ask' | 'inHand'>): void {
  const t = scene.control.position;
  const mark = scene.song.notes.find((note) => Math.abs(note.t - t) < 0.05) ?? null;
  scene.ask({ what: 'note', mark, t: mark?.t ?? t, channel: channelInHand(scene) });
}

/** The clip of the channel in hand that lies under the line. */
export function askClip(scene: CommandScene): void {
  const channel = channelInHand(scene);
  const clip = channel === null ? null : clipAt(channelOf(scene.song, channel)!, scene.control.position);
  if (channel !== null && clip) scene.ask({ what: 'clip', channel, at: clip.t });
}

/** A press that acts on the channel of the control in hand. */
export const withChannel = (act: (scene: CommandScene, key: string) => void) => (scene: CommandScene) => {
  const key = channelInHand(scene);
  if (key) act(scene, key);
};

/** Carries a fresh span of the control in hand on to the next stop; where the whole pass is picked, the ends of all its lanes, to one time. */
export function carryOn(
  scene: Pick<MendScene, 'song' | 'control' | 'fresh' | 'inHand' | 'picked' | 'range' | 'say'>,
  direction: 1 | -1,
): void {
  const { song, control, fresh, inHand, range, say } = scene;
  const all = fresh ? freshSpans(fresh.receipt, fresh.changes) : [];
  const own = spanToCarry(all, inHand, direction) ?? (scene.picked?.isPass ? (all[0] ?? null) : null);
  if (!own) return say('The last pass wrote nothing of the control in hand that could be carried on.');
  const spans = scene.picked?.isPass ? spansToCarry(all, direction) : [own];
  const edge = direction > 0 ? 'end' : 'start';
  // The line back to the curve is carried along: what stands in it is no stop.
  const from = ({ span }: FreshSpan): number => span[direction > 0 ? 1 : 0];
  const furthest = spans.map(from).reduce((a, b) => (direction > 0 ? Math.max(a, b) : Math.min(a, b)));
  const to = nextStop(carryStops(song, own, range), furthest, direction);
  if (to !== null) control.carry(carriesTo(song, spans, edge, to));
}

/** Plays into and out of the range, or of what the last pass wrote. */
export async function playEdges({
  control,
  range,
  placed,
  fresh,
  say,
}: Pick<CommandScene, 'control' | 'range' | 'fresh' | 'say'> & Partial<Pick<CommandScene, 'placed'>>): Promise<void> {
  if (placed) return control.playEdges(placed);
  const spans = fresh ? freshSpans(fresh.receipt, fresh.changes).map(({ span }) => span) : [];
  const written = spans.length
    ? ([Math.min(...spans.map(([a]) => a)), Math.max(...spans.map(([, b]) => b))] as const)
    : null;
  const edges = range ?? written;
  if (edges) return control.playEdges([edges]);
  say('There are no edges to play: set a range with I and O, or ride a pass.');
}

/** Switches between what is held aside and the curves; with nothing held, between what the last or the chosen pass found and left. */
export async function compare({ comparison, tryout, say }: CommandScene): Promise<void> {
  if (tryout.hearOther()) return;
  if (!(await comparison.toggle())) say('There is no pass to compare with yet.');
}
