/** What is wrong with a page as it stands, and what it has told. */
export type Looked = {
  readonly wrong: readonly string[];
  readonly told: readonly string[] | null;
  readonly keysChanged: boolean;
};

/** In the page: looks whether the frame is whole and whether something is said that is no word. */
export function lookAt(): Looked {
  const wrong: string[] = [];
  const whole = document.scrollingElement!;
  /** What reaches out of the window, outermost first. */
  const beyond = (): string[] =>
    [...document.querySelectorAll('body *')]
      .map((one) => ({ one, box: one.getBoundingClientRect() }))
      .filter(({ box }) => box.bottom > innerHeight + 1 || box.right > innerWidth + 1)
      .map(({ one }) => `${one.tagName}.${one.getAttribute('class')}#${one.getAttribute('data-testid')}`)
      .slice(0, 6);
  if (scrollX || scrollY || whole.scrollWidth > innerWidth || whole.scrollHeight > innerHeight)
    wrong.push(
      `The page scrolls: ${whole.scrollWidth} × ${whole.scrollHeight} at ${scrollX}, ${scrollY}: ${beyond().join(', ')}`,
    );
  const no = /\bNaN\b|\bundefined\b|\[object |\bInfinity\b|\bnull\b/.exec(document.body.innerText);
  if (no) {
    const { index } = no;
    wrong.push(`It says “${document.body.innerText.slice(Math.max(0, index - 40), index + 40)}”.`);
  }
  const keysChanged = localStorage.getItem('sure-hand/keys') !== null;
  const probe = globalThis.sureHandProbe;
  if (!probe) return { wrong, told: null, keysChanged };
  const top = document.querySelector('.top-bar')?.getBoundingClientRect();
  const bar = document.querySelector('.hand-bar')?.getBoundingClientRect();
  if (!top || top.top !== 0 || top.width !== innerWidth) wrong.push(`The top is at ${top?.top}, ${top?.width} wide.`);
  if (!bar || Math.abs(bar.bottom - innerHeight) > 0.5) wrong.push(`The hand bar ends at ${bar?.bottom}.`);
  if (!document.querySelector('[data-testid=hand-says]')?.textContent) wrong.push('The hand bar says nothing.');
  for (const sheet of document.querySelectorAll('[role=dialog]')) {
    const { left, right, top: high, bottom } = sheet.getBoundingClientRect();
    if (left < -0.5 || high < -0.5 || right > innerWidth + 0.5 || bottom > innerHeight + 0.5)
      wrong.push(`A sheet stands from ${left}, ${high} to ${right}, ${bottom}: ${sheet.textContent.slice(0, 60)}`);
  }
  return { wrong, told: [...probe.told()], keysChanged };
}
