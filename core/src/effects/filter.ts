import type { Effect, EffectParam, KernelOf } from './effect.js';
import { bareScale, hertzScale } from './scales.js';
import { asFilterShape, sectionResponse } from './magnitude.js';
import { oneOf } from './setting.js';
import { SectionsKernel } from './sections.js';
import { FILTER_SHAPES, SECTION, filterInto, flatInto, type FilterShape } from './stateVariable.js';
import { slowestDecay, tailOfSections } from './sectionTail.js';

const params = (cutoff: number): EffectParam[] => [
  { key: 'cutoff', name: 'cutoff', scale: hertzScale(20, 20_000, cutoff), rest: cutoff },
  { key: 'resonance', name: 'resonance', scale: bareScale('log', 0.5, 12, 0.7071), rest: 0.7071 },
];
/** Where it takes nothing away, it rests. */
const FROM_ABOVE = params(20_000);
const FROM_BELOW = params(20);

class Filter extends SectionsKernel {
  readonly #shape: FilterShape;
  readonly #sampleRate: number;
  readonly #isTwice: boolean;

  constructor({ sampleRate, sides, settings }: KernelOf) {
    super(2, 2, sides);
    this.#isTwice = settings['slope'] === 24;
    this.#shape = settings['shape'] as FilterShape;
    this.#sampleRate = sampleRate;
  }

  protected work(into: Float64Array): void {
    filterInto(into, 0, this.#shape, this.values, this.#sampleRate);
    if (this.#isTwice) for (let k = 0; k < SECTION.length; k++) into[SECTION.length + k] = into[k]!;
    else flatInto(into, SECTION.length);
  }
}

/** A low, high or band pass or a notch of the W3C note "Audio EQ Cookbook"; two alike in a row where the slope is 24 dB an octave. */
export const filter: Effect = {
  name: 'Filter',
  params: ({ shape }) => (shape === 'high' ? FROM_BELOW : FROM_ABOVE),
  settings: { shape: oneOf('Shape', FILTER_SHAPES, 'low'), slope: oneOf('Slope', [12, 24], 12) },
  makesStereo: false,
  rings: false,
  tailSec: ([cutoff, resonance], { slope }) =>
    tailOfSections(slope === 24 ? 2 : 1, slowestDecay(cutoff!.least, resonance!), Math.log(resonance!.most)),
  response({ 0: hz, 1: q }, { shape, slope }, sampleRate) {
    const section = sectionResponse(asFilterShape(shape), { hz: hz!, q: q!, db: 0 }, sampleRate);
    return (at) => (slope === 24 ? 2 : 1) * section(at);
  },
  kernel: (of) => new Filter(of),
};
