import type { Effect, EffectParam, KernelOf, ParamReach } from './effect.js';
import { bareScale, decibelScale, hertzScale } from './scales.js';
import { asBandShape, sectionResponse } from './magnitude.js';
import { eachOf } from './setting.js';
import { EQUALISER_LIST } from './sectionRoom.js';
import { SectionsKernel } from './sections.js';
import type { Frames, Seconds } from '../units/index.js';
import { BAND_SHAPES, NEPER, SECTION, bandInto, type BandShape } from './stateVariable.js';
import { slowestDecay, tailOfSections } from './sectionTail.js';

/** Where the four bands lie at first, in Hz. */
const AT_HZ = [100, 400, 2500, 8000] as const;
const DEFAULT_SHAPES: readonly BandShape[] = ['lowShelf', 'peak', 'peak', 'highShelf'];
/** Parameters of a band: frequency, gain, Q. */
const OF_A_BAND = 3;

const band = (hz: number, i: number): EffectParam[] => [
  { key: `freq${i + 1}`, name: `band ${i + 1} frequency`, scale: hertzScale(20, 20_000, hz), rest: hz },
  { key: `gain${i + 1}`, name: `band ${i + 1} gain`, scale: decibelScale(-18, 18, 0), rest: 0 },
  { key: `q${i + 1}`, name: `band ${i + 1} Q`, scale: bareScale('log', 0.1, 10, 0.7071), rest: 0.7071 },
];

const BANDS = AT_HZ.flatMap(band);

class Equaliser extends SectionsKernel {
  readonly #shapes: readonly BandShape[];
  readonly #sampleRate: number;

  constructor({ sampleRate, sides, settings }: KernelOf) {
    super(OF_A_BAND * AT_HZ.length, AT_HZ.length, sides);
    this.#shapes = settings['shapes'] as readonly BandShape[];
    this.#sampleRate = sampleRate;
    const { numbers } = this.list;
    for (const [i, shape] of this.#shapes.entries()) numbers[EQUALISER_LIST.shapes + i] = BAND_SHAPES.indexOf(shape);
    numbers[EQUALISER_LIST.sampleRate] = sampleRate;
  }

  protected override lead(frames: Frames): void {
    if (this.room.lead) this.room.lead(this.list, frames);
    else super.lead(frames);
  }

  protected work(into: Float64Array): void {
    const { values } = this;
    const sampleRate = this.#sampleRate;
    for (let i = 0; i < AT_HZ.length; i++)
      bandInto(into, SECTION.length * i, this.#shapes[i]!, values, OF_A_BAND * i, sampleRate);
  }
}

/** How slowly a band may die away: its poles lie where its gain bends them to. */
function slowestBandDecay(shape: BandShape, { least }: ParamReach, db: ParamReach, q: ParamReach): Seconds {
  const least4 = Math.exp((db.least / 4) * NEPER);
  const most4 = Math.exp((db.most / 4) * NEPER);
  switch (shape) {
    case 'peak':
      return slowestDecay(least, { least: q.least * least4 ** 2, most: q.most * most4 ** 2 });
    case 'lowShelf':
      return slowestDecay(least / most4, q);
    case 'highShelf':
      return slowestDecay(least * least4, q);
  }
}

/** Four bands of the W3C note "Audio EQ Cookbook", one after the other. */
export const equaliser: Effect = {
  name: 'Equaliser',
  params: () => BANDS,
  settings: { shapes: eachOf('Shapes', BAND_SHAPES, DEFAULT_SHAPES) },
  makesStereo: false,
  rings: false,
  tailSec(reach, { shapes }) {
    const bands = (shapes as readonly unknown[]).map(asBandShape).map((shape, i) => {
      const [hz, db, q] = [0, 1, 2].map((k) => reach[OF_A_BAND * i + k]!) as [ParamReach, ParamReach, ParamReach];
      return { decay: slowestBandDecay(shape, hz, db, q), neper: Math.max(0, db.most * NEPER) };
    });
    const loudest = Math.max(...bands.map(({ neper }) => neper));
    return tailOfSections(bands.length, Math.max(...bands.map(({ decay }) => decay)), loudest);
  },
  response(values, { shapes }, sampleRate) {
    const sections = (shapes as readonly unknown[]).map((shape, i) => {
      const [hz, db, q] = [0, 1, 2].map((k) => values[OF_A_BAND * i + k]!) as [number, number, number];
      return sectionResponse(asBandShape(shape), { hz, q, db }, sampleRate);
    });
    return (hz) => sections.reduce((sum, section) => sum + section(hz), 0);
  },
  kernel: (of) => new Equaliser(of),
};
