import equal from 'fast-deep-equal';
import {
  controlsOf,
  isReading,
  laneOf,
  swayOf,
  type Control,
  type ControlId,
  type Lane,
  type Song,
} from '../song/index.js';
import { LEVEL_LAW } from '../units/index.js';
import {
  assignSlots,
  controlPlan,
  planFrame,
  type ControlPlan,
  type MixPlan,
  type NodePlan,
  type PlanFrame,
  type PlanOptions,
} from './plan.js';
import { Slots } from './slots.js';

/**
 * A frame of which only what is other is told: `nodes` stand for those of the plan before, by their places there, where they
 * are as they were; null where all are, in their order. `files`: null where they are the same ones.
 */
export type FrameChange = Omit<PlanFrame, 'nodes' | 'files'> & {
  readonly nodes: readonly (NodePlan | number)[] | null;
  readonly files: readonly string[] | null;
};

/** What the audio thread has to be told after a change of the song: what is other of the frame, and the controls that are. */
export type PlanChange = {
  readonly frame: FrameChange | null;
  readonly controls: readonly { readonly slot: number; readonly plan: ControlPlan }[];
};

/** What a slot has that no control has. */
const FREE: ControlPlan = { id: '', law: LEVEL_LAW, rest: 0, curve: null, trim: null, sway: null };

/** A plan with a change in it; what is as it was are the same objects. */
export function changedPlan(before: MixPlan, { frame, controls }: PlanChange): MixPlan {
  const list = [...before.controls];
  for (const { slot, plan } of controls) {
    while (list.length < slot) list.push(FREE);
    list[slot] = plan;
  }
  if (!frame) return { ...before, controls: list };
  const nodes = frame.nodes?.map((node) => (typeof node === 'number' ? before.nodes[node]! : node)) ?? before.nodes;
  return { ...frame, nodes, files: frame.files ?? before.files, controls: list };
}

/**
 * Keeps the plan of a song that is open: after a change it tells only what became other of it, and nothing where that is
 * not heard. Controls and channels keep their places while others come and go.
 */
export class MixPlanner {
  readonly #slots = { controls: new Slots(), nodes: new Slots() };
  readonly #options: PlanOptions;
  #song: Song;
  #plan: MixPlan;

  constructor(song: Song, options: PlanOptions = {}) {
    this.#song = song;
    this.#options = options;
    assignSlots(song, this.#slots);
    const controls = [...controlsOf(song).values()].map((control) => this.#planOf(control));
    this.#plan = { ...planFrame(song, this.#slots, options), controls };
  }

  get plan(): MixPlan {
    return this.#plan;
  }

  /** The slot of a control; −1 where the song does not have it. */
  slotOf(id: ControlId): number {
    return this.#slots.controls.of(id);
  }

  /** The place of a channel's meters and gains; −1 where it carries no audio. */
  nodeSlotOf(key: string): number {
    return this.#slots.nodes.of(key);
  }

  /** Takes the song as it is after a change: what has to be told, null where nothing; `freed`: slots that nobody has any more. */
  follow(song: Song): { readonly change: PlanChange | null; readonly freed: readonly number[] } {
    const before = this.#song;
    if (song === before) return { change: null, freed: [] };
    this.#song = song;
    const freed = controlsOf(song) === controlsOf(before) ? [] : assignSlots(song, this.#slots);
    const change = { frame: this.#changedFrame(before), controls: this.#changedControls(before) };
    if (!change.frame && !change.controls.length) return { change: null, freed };
    this.#plan = changedPlan(this.#plan, change);
    return { change, freed };
  }

  #changedFrame(before: Song): FrameChange | null {
    const song = this.#song;
    const isSame = song.channels === before.channels && song.settings.panLaw === before.settings.panLaw;
    if (isSame && song.length === before.length) return null;
    const was = this.#plan;
    const frame = planFrame(song, this.#slots, this.#options);
    const files = equal(frame.files, was.files) ? null : frame.files;
    const nodes = changedNodes(was.nodes, frame.nodes);
    const isAsBefore =
      frame.length === was.length &&
      frame.panLaw === was.panLaw &&
      !files &&
      !nodes &&
      frame.heard.every((is, feed) => is === was.heard[feed]);
    return isAsBefore ? null : { ...frame, nodes, files };
  }

  #changedControls(before: Song): PlanChange['controls'] {
    const song = this.#song;
    const known = controlsOf(before);
    const isSameFrame = song.channels === before.channels && song.settings === before.settings;
    const isSameTurning = (id: ControlId): boolean => song.tempo === before.tempo || !swayOf(song, id);
    return [...controlsOf(song).values()].flatMap((control) => {
      const { id, host } = control;
      const was = known.get(id);
      // What the depth of a sway rests at stands with what sways.
      const isSameLane = [id, host ?? id].every((one) => song.lanes[one] === before.lanes[one]);
      if (was && isSameFrame && isSameLane && isSameTurning(id)) return [];
      const isSame =
        was?.law === control.law &&
        isReading(song, id) === isReading(before, id) &&
        curvesSame(laneOf(before, id), laneOf(song, id)) &&
        isSameTurning(id);
      return isSame ? [] : [{ slot: this.slotOf(id), plan: this.#planOf(control) }];
    });
  }

  #planOf(control: Control): ControlPlan {
    return controlPlan(this.#song, control, (id) => this.slotOf(id));
  }
}

/** Whether two lanes are heard as one: their guards make no difference. */
const curvesSame = (one: Lane, other: Lane): boolean =>
  one.rest === other.rest &&
  one.points === other.points &&
  one.trim === other.trim &&
  (one.sway === other.sway || !(one.sway?.on || other.sway?.on));

/** Nodes as a {@link FrameChange} tells them. */
function changedNodes(was: readonly NodePlan[], now: readonly NodePlan[]): FrameChange['nodes'] {
  const placeOf = new Map(was.map(({ key }, place) => [key, place]));
  const told = now.map((node) => {
    const place = placeOf.get(node.key);
    return place !== undefined && equal(node, was[place]) ? place : node;
  });
  const isAsBefore = told.length === was.length && told.every((node, place) => node === place);
  return isAsBefore ? null : told;
}
