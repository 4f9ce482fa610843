/** What the page of bars asks of each figure; a figure that misses its must is said to. */
const figures = [];

/** How long the reference loop took in this run, in milliseconds; null until it has. */
let reference = null;

/** From now on each time and each rate is also given as a multiple of the reference loop: hours differ, machines too. */
export function referenceIs(ms) {
  reference = ms;
}

const MS = { ms: 1, s: 1000 };
/** A time in loops, or how much is done in the time of one; null for what is neither a time nor a rate. */
function inLoops(value, unit) {
  if (reference === null) return null;
  if (unit in MS) return Number(((value * MS[unit]) / reference).toPrecision(3));
  if (unit === 'M/s' || unit === '× real time') return Number(((value * reference) / 1000).toPrecision(3));
  return null;
}

/** Prints a figure as a JSON line, and keeps it for the table. `better` says which way is good. */
export function figure({ name, value, unit, must = null, aim = null, better, note = '' }) {
  const rounded = Number(value.toPrecision(4));
  const holds = (bar) => (better === 'more' ? rounded >= bar : rounded <= bar);
  const verdict = must === null ? '' : holds(must) ? (aim !== null && holds(aim) ? 'aim' : 'must') : 'short';
  const line = { name, value: rounded, unit, loops: inLoops(value, unit), must, aim, verdict, note };
  figures.push(line);
  console.log(JSON.stringify(line));
}

export function table() {
  const rows = figures.map(({ name, value, unit, loops, must, aim, verdict, note }) => [
    name,
    `${value} ${unit}`,
    loops === null ? '' : String(loops),
    must === null ? '' : String(must),
    aim === null ? '' : String(aim),
    verdict === 'short' ? '**falls short**' : verdict === 'aim' ? 'reaches the aim' : verdict === 'must' ? 'holds' : '',
    note,
  ]);
  const head = ['figure', 'measured', 'in loops', 'must', 'aim', '', 'how'];
  return [head, head.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`).join('\n');
}

export const median = (numbers) => [...numbers].sort((a, b) => a - b)[numbers.length >> 1];
export const percentile = (numbers, p) =>
  [...numbers].sort((a, b) => a - b)[Math.min(numbers.length - 1, Math.floor(numbers.length * p))];
