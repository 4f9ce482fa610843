/** As much of what was typed as a sentence quotes. */
const MOST_QUOTED = 24;

/** What was typed, as a sentence quotes it: on one line, and no more of it than tells which it is. */
export function quoted(typed: string | number): string {
  const text = String(typed).replace(/\s+/g, ' ');
  return `“${text.length > MOST_QUOTED ? `${text.slice(0, MOST_QUOTED).trimEnd()}…` : text}”`;
}
