import { rangeOf, tableText, unitOf } from '../units/index.js';
import { EFFECTS, defaultsOf } from './registry.js';

/** Every parameter of every effect as a document has it, as docs/effects.md lists them. */
export function parameterTableText(): string {
  const rows = [...EFFECTS].flatMap(([effect, one]) =>
    one.params(defaultsOf(one)).map(({ key, scale: { law }, rest }) => {
      const { min, max } = rangeOf(law);
      return [`\`${effect}\``, `\`${key}\``, `${min} … ${max}`, unitOf(law) ?? '', law.kind, String(rest)];
    }),
  );
  return tableText([['effect', 'parameter', 'range', 'unit', 'law', 'rests at'], ...rows]);
}

/** Every setting of every effect. */
export function settingTableText(): string {
  const rows = [...EFFECTS].flatMap(([effect, { settings }]) =>
    Object.entries(settings).map(([name, { takes, rest }]) => [
      `\`${effect}\``,
      `\`${name}\``,
      takes,
      `\`${JSON.stringify(rest)}\``,
    ]),
  );
  return tableText([['effect', 'setting', 'takes', 'where nothing is said'], ...rows]);
}
