const BEGIN = 'measured from here';

/** The longest tasks of the page's own thread from the last mark on; in ms. */
function longestOf(events) {
  const mark = events.filter(({ name }) => name === BEGIN).at(-1);
  const mine = events.filter(({ pid, tid, ts, dur }) => pid === mark.pid && tid === mark.tid && ts >= mark.ts && dur);
  const pictures = mine.filter(({ name }) => name === 'FireAnimationFrame');
  const isPicture = (task) => pictures.some(({ ts }) => ts >= task.ts && ts <= task.ts + task.dur);
  const tasks = mine.filter((one) => one.name.endsWith('RunTask'));
  const longest = (those) => Math.max(0, ...those.map(({ dur }) => dur)) / 1000;
  return { besidesPictures: longest(tasks.filter((task) => !isPicture(task))), withPictures: longest(tasks) };
}

/** Marks where the page measures from, in documents that it opens too. */
const marks = new WeakSet();
async function marked(page) {
  const mark = (name) => void performance.mark(name);
  if (!marks.has(page)) await page.addInitScript(mark, BEGIN);
  marks.add(page);
  await page.evaluate(mark, BEGIN);
}

/** The longest tasks of a page's own thread while something is done in it, pictures left out and with them; in ms. */
export async function longestTasks(browser, page, act) {
  await browser.startTracing(page, { categories: ['toplevel', 'devtools.timeline', 'blink.user_timing'] });
  await marked(page);
  await act();
  return longestOf(JSON.parse((await browser.stopTracing()).toString()).traceEvents);
}
