import { printDb, type Law, type ValueScale } from '../units/index.js';

/** What stands behind a typed number, and how many units it is. */
type Unit = readonly [written: RegExp, factor: number];

const NUMBER = /^[+-]?(?:\d+\.?\d*|\.\d+)$/;

/** Reads a number with one of some units behind it, or none. */
const reading =
  (units: readonly Unit[], example: string) =>
  (text: string): number | string => {
    const unit = units.find(([written]) => written.test(text));
    const bare = (unit ? text.replace(unit[0], '') : text).trim();
    if (!NUMBER.test(bare)) return `“${text}” is no number. Type one such as ${example}.`;
    return Number(bare) * (unit ? unit[1] : 1);
  };

/** Three figures that count, without a unit. */
const figures = (value: number): string => value.toFixed(value >= 99.95 ? 0 : value >= 9.995 ? 1 : 2);

type Of = Pick<ValueScale, 'print' | 'read'> & Partial<Pick<ValueScale, 'plain'>>;
type OwnLaw = Extract<Law, { readonly min: number }>;

/** A scale of a law of its own, marked at its ends, where it rests, and in some places more. */
function scale(law: OwnLaw, rest: number, of: Of, marks: readonly number[] = []): ValueScale {
  const all = [...new Set([...marks, law.min, rest, law.max])].sort((a, b) => b - a);
  return { law, ...of, marks: all.map((value) => ({ value, label: of.print(value), isMain: value === rest })) };
}

/** Frequencies and rates: `250 Hz`, `2.50 kHz`; typed in either. */
export function hertzScale(min: number, max: number, rest: number): ValueScale {
  const units: readonly Unit[] = [
    [/\s*k(hz)?$/i, 1000],
    [/\s*hz$/i, 1],
  ];
  const print = (hz: number): string => (hz >= 999.5 ? `${figures(hz / 1000)} kHz` : `${figures(hz)} Hz`);
  const of = { print, read: reading(units, '250 Hz or 2.5k') };
  const decades = [100, 1000, 10_000].filter((hz) => hz > min && hz < max);
  return scale({ kind: 'log', min, max, unit: 'Hz' }, rest, of, decades);
}

/** Times kept in milliseconds: `120 ms`, `1.20 s`; typed in either. */
export function millisecondScale(kind: 'linear' | 'log', min: number, max: number, rest: number): ValueScale {
  const units: readonly Unit[] = [
    [/\s*ms$/i, 1],
    [/\s*s$/i, 1000],
  ];
  const print = (ms: number): string => (ms >= 999.5 ? `${figures(ms / 1000)} s` : `${figures(ms)} ms`);
  return scale({ kind, min, max, unit: 'ms' }, rest, { print, read: reading(units, '120 ms or 1.2 s') });
}

/** Times kept in seconds; typed in either. */
export function secondScale(min: number, max: number, rest: number): ValueScale {
  const units: readonly Unit[] = [
    [/\s*ms$/i, 0.001],
    [/\s*s$/i, 1],
  ];
  const of = { print: (sec: number) => `${figures(sec)} s`, read: reading(units, '1.5 s') };
  return scale({ kind: 'log', min, max, unit: 's' }, rest, of);
}

/** Gains and thresholds in dB, straight on their throw. */
export function decibelScale(min: number, max: number, rest: number): ValueScale {
  const of = { print: (db: number) => printDb(db, min < 0 && max > 0), read: reading([[/\s*db$/i, 1]], '-6.5') };
  return scale({ kind: 'linear', min, max, unit: 'dB' }, rest, of);
}

/** How many times: `2.00 : 1`. */
export function ratioScale(max: number, rest: number): ValueScale {
  const of = { print: (ratio: number) => `${figures(ratio)} : 1`, read: reading([[/\s*:\s*1$/, 1]], '4 or 4:1') };
  return scale({ kind: 'log', min: 1, max, unit: ': 1' }, rest, of);
}

/** Shares of a whole, kept from 0 to 1: `50 %`; typed per cent. */
export function shareScale(min: number, max: number, rest: number): ValueScale {
  const readCent = reading([[/\s*%$/, 1]], '50 %');
  const read = (text: string): number | string => {
    const cent = readCent(text);
    return typeof cent === 'number' ? cent / 100 : cent;
  };
  const print = (share: number): string => `${Math.round(share * 100)} %`.replace('-', '−');
  const plain = (share: number): string => `${Number((share * 100).toFixed(2))} %`;
  return scale({ kind: 'linear', min, max, unit: 'share' }, rest, { print, read, plain });
}

/** Numbers without a unit, such as Q. */
export const bareScale = (kind: 'linear' | 'log', min: number, max: number, rest: number): ValueScale =>
  scale({ kind, min, max }, rest, { print: figures, read: reading([], '0.71') });
