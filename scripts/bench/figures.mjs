/** What the page of bars asks of each figure; a figure that misses its must is said to. */
const figures = [];

/** Prints a figure as a JSON line, and keeps it for the table. `better` says which way is good. */
export function figure({ name, value, unit, must = null, aim = null, better, note = '' }) {
  const rounded = Number(value.toPrecision(4));
  const holds = (bar) => (better === 'more' ? rounded >= bar : rounded <= bar);
  const verdict = must === null ? '' : holds(must) ? (aim !== null && holds(aim) ? 'aim' : 'must') : 'short';
  const line = { name, value: rounded, unit, must, aim, verdict, note };
  figures.push(line);
  console.log(JSON.stringify(line));
}

export function table() {
  const rows = figures.map(({ name, value, unit, must, aim, verdict, note }) => [
    name,
    `${value} ${unit}`,
    must === null ? '' : String(must),
    aim === null ? '' : String(aim),
    verdict === 'short' ? '**falls short**' : verdict === 'aim' ? 'reaches the aim' : verdict === 'must' ? 'holds' : '',
    note,
  ]);
  const head = ['figure', 'measured', 'must', 'aim', '', 'how'];
  return [head, head.map(() => '---'), ...rows].map((row) => `| ${row.join(' | ')} |`).join('\n');
}

export const median = (numbers) => [...numbers].sort((a, b) => a - b)[numbers.length >> 1];
export const percentile = (numbers, p) =>
  [...numbers].sort((a, b) => a - b)[Math.min(numbers.length - 1, Math.floor(numbers.length * p))];
