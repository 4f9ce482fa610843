import type { Page } from '@playwright/test';
import type { Modifier, MonkeyAct, Place } from './monkeyActs.js';

/** A place in the window, and what stands there. */
type Spot = { readonly x: number; readonly y: number; readonly on: string };

/**
 * In the page: a place in the window. A thing is the middle of one of those in sight that can be worked, as a part of their number; what
 * leads out of the song, takes files or changes keys is left alone.
 */
function spotOf(place: Place): Spot {
  let at = { x: innerWidth / 2, y: innerHeight / 2 };
  if ('x' in place) at = { x: place.x * innerWidth, y: place.y * innerHeight };
  else {
    const can =
      'button, input:not([type=file]), textarea, select, summary, a[href*="/songs/1/"]:not([download]), [tabindex="0"], [role=button], [role=menuitem], [role=option], [role=slider], [role=separator]';
    const spots = [...document.querySelectorAll(can)]
      .filter(
        (one) => !/^(Change the key|Add stems|Open a zip|Delete the song)/.test(one.getAttribute('aria-label') ?? ''),
      )
      .map((one) => one.getBoundingClientRect())
      .filter(({ width, height }) => width && height)
      .map(({ x, y, width, height }) => ({ x: x + width / 2, y: y + height / 2 }))
      .filter(({ x, y }) => x > 0 && y > 0 && x < innerWidth && y < innerHeight);
    at = spots[Math.floor(place.thing * spots.length)] ?? at;
  }
  const one = document.elementFromPoint(at.x, at.y)?.closest('[aria-label], [data-testid], button, a, label, p');
  const said = one && `${one.getAttribute('aria-label') ?? ''} ${one.textContent.slice(0, 40)}`;
  return { ...at, on: `${one?.tagName ?? 'nothing'} ${said ?? ''}` };
}

/** In the page: where the cap of one of the rows in sight is, as a part of their number. */
function spotOfCap(part: number): Spot | null {
  const lanes = document.querySelector('[data-testid=lanes]')?.getBoundingClientRect();
  const rows = [...document.querySelectorAll('[data-testid^="row-"]')];
  const row = rows[Math.floor(part * rows.length)];
  if (!lanes || !row) return null;
  const { y, height } = row.getBoundingClientRect();
  return { x: lanes.x + globalThis.sureHandProbe!.lineX, y: y + height / 2, on: row.getAttribute('data-testid')! };
}

/** In the page: whether what has the focus is typed into, and Space with it. */
const isTypedInto = (): boolean =>
  document.activeElement?.matches(
    'textarea, input:not([type=checkbox], [type=radio], [type=range], [type=button], [type=color]), [contenteditable=true]',
  ) ?? false;

/** A hand that knows nothing, at one page of a song. */
export class MonkeyHand {
  constructor(readonly page: Page) {}

  #spot(place: Place): Promise<Spot> {
    return this.page.evaluate(spotOf, place);
  }

  async #holding(held: readonly Modifier[], act: () => Promise<void>): Promise<void> {
    for (const key of held) await this.page.keyboard.down(key);
    await act();
    for (const key of held) await this.page.keyboard.up(key);
  }

  isTypedInto(): Promise<boolean> {
    return this.page.evaluate(isTypedInto);
  }

  /** Does all but what another page does; gives back what it was done on. */
  async do(act: Exclude<MonkeyAct, { do: 'elsewhere' | 'leave' | 'reload' }>): Promise<string> {
    const { mouse, keyboard } = this.page;
    switch (act.do) {
      case 'key':
        await this.#key(act.key, act.repeats);
        return '';
      case 'click': {
        const { x, y, on } = await this.#spot(act.at);
        await this.#holding(act.held, () => mouse.click(x, y, { button: act.button, clickCount: act.clicks }));
        return on;
      }
      case 'drag': {
        const { x, y, on } = await this.#spot(act.from);
        await this.#holding(act.held, () => this.#drag({ x, y }, act.by, act.steps, act.amid));
        return on;
      }
      case 'ride': {
        const cap = await this.page.evaluate(spotOfCap, act.row);
        if (cap) await this.#drag(cap, { x: 0, y: -act.up }, act.steps, 'nothing');
        return cap?.on ?? '';
      }
      case 'type':
        await keyboard.insertText(act.text);
        if (act.then !== 'nothing') await keyboard.press(act.then);
        return '';
      case 'wheel': {
        const { x, y, on } = await this.#spot(act.at);
        await mouse.move(x, y);
        await this.#holding(act.held, () => mouse.wheel(act.by.x, act.by.y));
        return on;
      }
      case 'view': {
        const box = await this.page.locator('nav[aria-label="Views"] a').nth(act.view).boundingBox();
        if (box) await mouse.click(box.x + box.width / 2, box.y + box.height / 2);
        return '';
      }
    }
  }

  async #drag(
    from: { readonly x: number; readonly y: number },
    by: { readonly x: number; readonly y: number },
    steps: number,
    amid: 'nothing' | 'Escape' | 'right button' | 'a key',
  ): Promise<void> {
    const { mouse } = this.page;
    await mouse.move(from.x, from.y);
    await mouse.down();
    for (let i = 1; i <= steps; i++) {
      await mouse.move(from.x + (by.x * i) / steps, from.y + (by.y * i) / steps);
      if (i === Math.ceil(steps / 2)) await this.#amid(amid);
    }
    await mouse.up();
  }

  async #amid(what: 'nothing' | 'Escape' | 'right button' | 'a key'): Promise<void> {
    if (what === 'Escape') await this.page.keyboard.press('Escape');
    if (what === 'a key') await this.page.keyboard.press('v');
    if (what !== 'right button') return;
    await this.page.mouse.down({ button: 'right' });
    await this.page.mouse.up({ button: 'right' });
  }

  async #key(keys: string, repeats: number): Promise<void> {
    const { keyboard } = this.page;
    const parts = keys.split('+').filter(Boolean);
    const key = keys.endsWith('+') ? '+' : parts.pop()!;
    await this.#holding(parts as Modifier[], async () => {
      for (let i = 0; i <= repeats; i++) await keyboard.down(key);
      await keyboard.up(key);
    });
  }
}
