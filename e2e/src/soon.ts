import { expect as slow } from '@playwright/test';

/** Milliseconds between two looks at what is waited for. Left to itself a matcher looks once a second, after the first. */
const LOOKS = [20, 50, 100] as const;
/** For so long each wait is looked at so often; then at leisure, until its own time is over, and what is wrong is said. */
const OFTEN_MS = 3000;

const once = slow.configure({ timeout: 1 });
type Matchers = { readonly not: Matchers } & {
  readonly [name: string]: (...args: readonly unknown[]) => Promise<void>;
};

/** The matchers of what a page shows, each looking often at first. */
function oftenAtFirst(matchers: (expecting: typeof slow) => Matchers): Matchers {
  return new Proxy({} as Matchers, {
    get: (_, name: string) =>
      name === 'not'
        ? oftenAtFirst((expecting) => matchers(expecting).not)
        : async (...args: readonly unknown[]): Promise<void> => {
            const end = performance.now() + OFTEN_MS;
            for (let look = 0; performance.now() < end; look++) {
              const isSo = await matchers(once)[name]!(...args)
                .then(() => true)
                .catch(() => false);
              if (isSo) return;
              await new Promise((next) => setTimeout(next, LOOKS[look] ?? LOOKS.at(-1)));
            }
            await matchers(slow)[name]!(...args);
          },
  });
}

const isShown = (what: unknown): boolean =>
  typeof what === 'object' && what !== null && ('locator' in what || 'goto' in what);

/** As Playwright’s own, but for how soon it sees that what it waits for has come: walks are made of such waits. */
export const expect = new Proxy(slow, {
  apply: (_target, _this, [what, ...more]: [unknown, ...string[]]) => {
    const matchers = (expecting: typeof slow): Matchers => expecting(what, ...more) as unknown as Matchers;
    return isShown(what) ? oftenAtFirst(matchers) : matchers(slow);
  },
  get: (target, name) =>
    name === 'poll'
      ? (actual: () => unknown, options?: object) => slow.poll(actual, { intervals: [...LOOKS], ...options })
      : (Reflect.get(target, name) as unknown),
});
