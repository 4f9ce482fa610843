import { EFFECTS, compressedLevel } from '@sure-hand/core/effects';
import { clamp, dbOfGain } from '@sure-hand/core/units';
import {
  along,
  evenAxis,
  hertzMarks,
  logAxis,
  type EffectHandle,
  type EffectNow,
  type EffectShape,
  type GridMark,
} from './effectShape.js';

/** A line is drawn from so many places. */
const STEPS = 220;
const hertz = (param: string): ReturnType<typeof logAxis> => logAxis(param, 20, 20_000);
const decibels = (from: number, to: number, step: number): GridMark[] =>
  Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step).map((db) => ({
    at: (db - from) / (to - from),
    label: db > 0 ? `+${db}` : String(db).replace('-', '−'),
    isMain: db === 0,
  }));

/** What an effect does to each frequency, as it is heard now. */
function responseLine(
  effect: 'equaliser' | 'filter',
  now: EffectNow,
  y: (db: number) => number,
): EffectShape['lines'] extends (n: EffectNow) => infer L ? L : never {
  const known = EFFECTS.get(effect)!;
  const values = known.params(now.settings).map(({ key }) => now.heard(key));
  const response = known.response!(values, now.settings, now.sampleRate);
  const { to } = hertz('');
  return [along(STEPS, (x) => y(response(to(x))))];
}

const EQ_DB = 24;
const equaliser: EffectShape = {
  handles: [1, 2, 3, 4].map((n): EffectHandle => {
    const across = hertz(`freq${n}`);
    const up = evenAxis(`gain${n}`, -EQ_DB, EQ_DB);
    const place: EffectHandle['place'] = ({ value }) => ({
      x: across.of(value(`freq${n}`)),
      y: up.of(value(`gain${n}`)),
    });
    return { name: `Band ${n}`, across, up, third: `q${n}`, place };
  }),
  lines: (now) => responseLine('equaliser', now, evenAxis('', -EQ_DB, EQ_DB).of),
  across: () => hertzMarks(hertz('')),
  up: decibels(-EQ_DB, EQ_DB, 12),
  says: 'Drag a band: frequency across, gain up. Alt, or a second finger: its Q. Shift: finely.',
};

const FILTER_DB = { from: -36, to: 24 } as const;
const filterY = evenAxis('', FILTER_DB.from, FILTER_DB.to);
/** At its cutoff a pass is as loud as its resonance: it lies along the picture in dB. */
const resonance = {
  param: 'resonance',
  of: (q: number): number => filterY.of(dbOfGain(q)),
  to: (at: number): number => 10 ** (filterY.to(at) / 20),
};
const filter: EffectShape = {
  handles: [
    {
      name: 'Cutoff',
      across: hertz('cutoff'),
      up: resonance,
      third: null,
      place: ({ value }) => ({ x: hertz('').of(value('cutoff')), y: resonance.of(value('resonance')) }),
    },
  ],
  lines: (now) => responseLine('filter', now, filterY.of),
  across: () => hertzMarks(hertz('')),
  up: decibels(FILTER_DB.from, FILTER_DB.to, 12),
  says: 'Drag it: cutoff across, resonance up. Shift: finely.',
};

const IN_DB = { from: -60, to: 0 } as const;
const OUT_DB = { from: -60, to: 12 } as const;
const levelIn = evenAxis('threshold', IN_DB.from, IN_DB.to);
const levelOut = evenAxis('', OUT_DB.from, OUT_DB.to);
/** What comes out of a steady level, in dB. */
export const compressed = ({ value }: Pick<EffectNow, 'value'>, level: number): number =>
  compressedLevel(level, {
    threshold: value('threshold'),
    ratio: value('ratio'),
    knee: value('knee'),
    makeup: value('makeup'),
    mix: value('mix'),
  });
/** Along its right edge a ratio lies as its own throw does, the gentlest above. */
const ratio = {
  param: 'ratio',
  of: (v: number): number => 1 - Math.log(v) / Math.log(20),
  to: (at: number): number => 20 ** (1 - at),
};
const compressor: EffectShape = {
  handles: [
    {
      name: 'Threshold',
      across: levelIn,
      up: { ...evenAxis('makeup', 0, OUT_DB.to - OUT_DB.from) },
      third: 'knee',
      place: (now) => ({
        x: levelIn.of(now.value('threshold')),
        y: levelOut.of(compressed(now, now.value('threshold'))),
      }),
    },
    {
      name: 'Ratio',
      across: null,
      up: ratio,
      third: null,
      place: (now) => ({ x: 1, y: levelOut.of(compressed(now, 0)) }),
    },
  ],
  lines: (now) => [
    along(STEPS, (x) => levelOut.of(compressed({ value: now.heard }, levelIn.to(x)))),
    along(1, (x) => levelOut.of(levelIn.to(x))),
  ],
  across: () => decibels(IN_DB.from, IN_DB.to, 12),
  up: decibels(OUT_DB.from, OUT_DB.to, 12),
  says: 'Drag the threshold across, the make-up up, with Alt the knee; at the right edge the ratio.',
};

/** How long the time axis of repeats is: two bars of four, or more where the first repeat is later. */
const repeatSpan = (now: EffectNow): number => Math.max(8 * now.quarter, 1.25 * firstRepeat(now));
/** When the first repeat comes, in seconds: by its beats where it has some. */
function firstRepeat({ value, settings, quarter }: EffectNow): number {
  const byTempo = EFFECTS.get('delay')!.byTempo!.value(settings, 60 / quarter);
  return (byTempo ?? value('time')) / 1000;
}
const MOST_REPEATS = 40;
const level = (param: string): ReturnType<typeof evenAxis> => evenAxis(param, 0, 1);
/** The caps of a delay that goes by its time, or by beats, which nobody drags. */
const delay = (byBeats: boolean): EffectShape => ({
  handles: [
    {
      name: 'First repeat',
      across: byBeats ? null : logAxis('time', 1, 2000),
      up: level('mix'),
      third: null,
      place: (now) => ({ x: firstRepeat(now) / repeatSpan(now), y: now.value('mix') }),
    },
    {
      name: 'Second repeat',
      across: null,
      up: level('feedback'),
      third: 'tone',
      place: (now) => ({
        x: (2 * firstRepeat(now)) / repeatSpan(now),
        y: now.value('mix') * now.value('feedback'),
      }),
    },
  ],
  lines: () => [],
  bars: (now) => {
    const heard = { ...now, value: now.heard };
    const [gap, span] = [Math.max(0.02, firstRepeat(heard)), repeatSpan(now)];
    const count = Math.min(MOST_REPEATS, Math.floor(span / gap));
    return [
      { x: 0, y: 1 - now.heard('mix') },
      ...Array.from({ length: count }, (_, k) => ({
        x: ((k + 1) * gap) / span,
        y: now.heard('mix') * now.heard('feedback') ** k,
      })),
    ];
  },
  across: (now) => {
    const quarters = Math.ceil(repeatSpan(now) / now.quarter);
    return Array.from({ length: quarters }, (_, k) => ({
      at: (k * now.quarter) / repeatSpan(now),
      label: k % 4 ? '' : `bar ${k / 4 + 1}`,
      isMain: k % 4 === 0,
    })).filter(({ at }) => at < 1);
  },
  up: [0, 0.5, 1].map((at) => ({ at, label: String(at * 100) })),
  says: byBeats
    ? 'The repeats, in bars of the song: drag the first up for the mix, the second for the feedback, with Alt the tone.'
    : 'Drag the first repeat: time across, mix up; the second up for the feedback, with Alt the tone.',
});

const FALL = { from: 0.01, to: 14 } as const;
const fallAxis = logAxis('', FALL.from, FALL.to);
const FALL_DB = 60;
const reverb: EffectShape = {
  handles: [
    {
      name: 'Its beginning',
      across: { ...evenAxis('before', 0, 600) },
      up: level('mix'),
      third: null,
      place: ({ value }) => ({ x: beginsAt(value('before')), y: fallY(wetDb(value('mix'))) }),
    },
    {
      name: 'Its end',
      across: logAxis('decay', FALL.from, FALL.to),
      up: null,
      third: 'damping',
      place: ({ value }) => ({ x: fallAxis.of(value('before') / 1000 + value('decay')), y: fallY(-FALL_DB) }),
    },
  ],
  lines: ({ heard }) => {
    const begins = heard('before') / 1000;
    const loud = wetDb(heard('mix'));
    const line = along(STEPS, (x) => {
      const t = fallAxis.to(x);
      return t < begins ? 0 : fallY(loud - (FALL_DB * (t - begins)) / heard('decay'));
    });
    return [line];
  },
  across: () =>
    [0.01, 0.03, 0.1, 0.3, 1, 3, 10].map((sec) => ({
      at: fallAxis.of(sec),
      label: sec < 1 ? `${sec * 1000} ms` : `${sec} s`,
      isMain: sec === 1,
    })),
  up: decibels(-FALL_DB, 0, 20),
  says: 'Drag its beginning: the pause across, the mix up; its end across: the decay, with Alt the damping.',
};
const beginsAt = (ms: number): number => Math.max(0, fallAxis.of(Math.max(FALL.from, ms / 1000)));
const wetDb = (mix: number): number => Math.max(-FALL_DB, dbOfGain(mix));
/** The fall lies over the lower nine tenths: what begins loudest has room for its cap. */
const fallY = (db: number): number => 0.06 + 0.88 * ((db + FALL_DB) / FALL_DB);

const CHORUS = { sec: 3, ms: 42 } as const;
const chorus: EffectShape = {
  handles: [
    {
      name: 'Its swing',
      across: { ...logAxis('rate', 10, 0.05) },
      up: { ...evenAxis('depth', 0, CHORUS.ms) },
      third: 'delay',
      place: ({ value }) => ({
        x: clamp(1 / (4 * value('rate') * CHORUS.sec), 0, 1),
        y: (value('delay') + value('depth')) / CHORUS.ms,
      }),
    },
  ],
  lines: ({ heard }) =>
    [0, 0.25].map((side) =>
      along(STEPS, (x) => {
        const turns = heard('rate') * x * CHORUS.sec + side;
        return Math.max(0, heard('delay') + heard('depth') * Math.sin(2 * Math.PI * turns)) / CHORUS.ms;
      }),
    ),
  across: () => [0, 1, 2, 3].map((sec) => ({ at: sec / CHORUS.sec, label: `${sec} s` })),
  up: [0, 10, 20, 30, 40].map((ms) => ({ at: ms / CHORUS.ms, label: `${ms} ms` })),
  says: 'The delay of both sides: drag its crest, rate across, depth up, with Alt the delay itself.',
};

const reducer: EffectShape = {
  handles: [
    {
      name: 'Steps',
      across: logAxis('rate', 500, 48_000),
      up: evenAxis('bits', 1, 16),
      third: 'mix',
      place: ({ value }) => ({ x: logAxis('', 500, 48_000).of(value('rate')), y: (value('bits') - 1) / 15 }),
    },
  ],
  lines: ({ heard }) => [
    // A sine of 200 Hz, as it leaves.
    along(STEPS, (x) => {
      const held = Math.floor((x / 200) * heard('rate')) / heard('rate');
      const steps = 2 ** (heard('bits') - 1);
      const sine = Math.sin(2 * Math.PI * 200 * held);
      return (
        0.5 +
        0.45 * (heard('mix') * (Math.round(sine * steps) / steps) + (1 - heard('mix')) * Math.sin(2 * Math.PI * x))
      );
    }),
  ],
  across: () => [],
  up: [],
  says: 'A sine as it leaves: drag the cap, rate across, bits up, with Alt the mix.',
};

const SHAPES: Readonly<Record<string, (settings: EffectNow['settings']) => EffectShape>> = {
  equaliser: () => equaliser,
  filter: () => filter,
  compressor: () => compressor,
  delay: ({ beats }) => delay(typeof beats === 'number'),
  reverb: () => reverb,
  chorus: () => chorus,
  reducer: () => reducer,
};

/** The picture of an effect; null of one that has none. */
export const shapeOf = (effect: string, settings: EffectNow['settings']): EffectShape | null =>
  SHAPES[effect]?.(settings) ?? null;
