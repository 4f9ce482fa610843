/** Rows as a Markdown table, its columns as wide as what stands in them; the first row is its head. */
export function tableText(rows: readonly (readonly string[])[]): string {
  const [head, ...body] = rows as readonly [readonly string[], ...(readonly string[])[]];
  const widths = head.map((_, i) => Math.max(...rows.map((row) => [...row[i]!].length)));
  const line = (row: readonly string[], fill: string): string =>
    `| ${row.map((cell, i) => cell + fill.repeat(widths[i]! - [...cell].length)).join(' | ')} |`;
  return [
    line(head, ' '),
    line(
      head.map(() => ''),
      '-',
    ),
    ...body.map((row) => line(row, ' ')),
  ].join('\n');
}
