import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import { changedAt, completedEdit, type Edit, type LayerCurve } from '@sure-hand/core/edits';
import { laneOf, layerLaw, layerPoints, layerRest, type Lane, type Layer, type Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import { StepRow } from '../database/models.js';
import { CurveStore } from '../database/curveStore.js';
import { PassLog, type LoggedPass } from './passLog.js';

/** What wrote a layer of a lane at a time: what it was called, when, its number in the log where it is there, and what stood before it. */
export type Origin = {
  readonly name: string;
  readonly kind: Edit['kind'];
  readonly at: string;
  readonly number: number | null;
  readonly before: LayerCurve;
};

/** Which layer of which lane is asked about, and where. */
export type OriginAsked = { readonly control: string; readonly layer: Layer; readonly t: Seconds };

/** So many steps are opened at a time, newest first. */
const AT_ONCE = 20;

const layerOf = (lane: Lane, layer: Layer): LayerCurve => ({
  points: layerPoints(lane, layer),
  rest: layerRest(lane, layer),
});

/** Looks up, step by step back, what made a lane what it is at a time. */
@Injectable()
export class Origins {
  constructor(
    @InjectModel(StepRow) private readonly steps: typeof StepRow,
    private readonly passes: PassLog,
    private readonly curves: CurveStore,
  ) {}

  /** What wrote it last of all that stands; null where nothing has since the song was made. */
  async of(songId: number, song: Song, asked: OriginAsked): Promise<Origin | null> {
    const { control, layer, t } = asked;
    const law = layerLaw(song, control, layer);
    const own = (pass: LoggedPass): boolean =>
      pass.receipt.lanes.some(
        (lane) => lane.control === control && lane.layer === layer && lane.spans.some(([a, b]) => t >= a && t < b),
      );
    let after = layerOf(laneOf(song, control), layer);
    for await (const step of this.#back(songId, control)) {
      const before = await this.#before(song, step, asked);
      if (!before) continue;
      const pass = await this.passes.atStep(songId, step.id);
      if (changedAt(law, before, after, t) || (pass && own(pass)))
        return {
          name: step.name,
          kind: step.kind,
          at: (step.get('createdAt') as Date).toISOString(),
          number: pass?.number ?? null,
          before,
        };
      after = before;
    }
    const came = await this.passes.thatCameAlong(songId, control);
    const pass = came.find((one) => !one.undone && own(one));
    return this.#fromCopy(songId, pass, asked);
  }

  /** Steps that stand and changed a control, the last first. */
  async *#back(songId: number, control: string): AsyncGenerator<StepRow> {
    const attributes = ['id', 'controls'];
    const all = await this.steps.findAll({ where: { songId, undone: false }, attributes, order: [['id', 'DESC']] });
    const mine = all.filter(({ controls }) => !controls || (JSON.parse(controls) as string[]).includes(control));
    for (let i = 0; i < mine.length; i += AT_ONCE) {
      const ids = mine.slice(i, i + AT_ONCE).map(({ id }) => id);
      yield* await this.steps.findAll({ where: { songId, id: ids }, order: [['id', 'DESC']] });
    }
  }

  /** The layer as a step found it; null where it did not change the lane. */
  async #before(
    song: Song,
    { packed, inverse: json }: StepRow,
    { control, layer }: OriginAsked,
  ): Promise<LayerCurve | null> {
    const [opened] = packed ? await this.curves.open([packed]) : [completedEdit(song, JSON.parse(json) as Edit)];
    const inverse = opened as Edit;
    const lanes =
      'lanes' in inverse ? (inverse.lanes as { readonly [id: string]: Lane | null } | undefined) : undefined;
    if (!lanes || !Object.hasOwn(lanes, control)) return null;
    const lane = lanes[control] ?? laneOf({ ...song, lanes: {} }, control);
    return layerOf(lane, layer);
  }

  /** Of a song that is a copy, the log came along without steps. */
  async #fromCopy(
    songId: number,
    own: LoggedPass | undefined,
    { control, layer }: OriginAsked,
  ): Promise<Origin | null> {
    const pass = own && (await this.passes.get(songId, own.number));
    const lane = pass?.lanes.find((one) => one.control === control && one.layer === layer);
    if (!pass || !lane) return null;
    const kind = pass.entry?.kind ?? 'pass';
    const name = pass.name ?? `${pass.entry ? 'Placing' : 'Pass'} ${pass.number}`;
    return { name, kind, at: pass.at, number: pass.number, before: { points: lane.before, rest: lane.rest } };
  }
}
