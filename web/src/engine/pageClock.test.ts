import { jest } from '@jest/globals';
import { PageClock, type TickingThread } from './pageClock.js';

/** A thread that ticks only when it is told to; what it was told comes to `said`. */
function thread(): { readonly started: TickingThread; readonly said: unknown[]; readonly tick: () => void } {
  const said: unknown[] = [];
  const started: TickingThread = {
    onmessage: null,
    postMessage: (what: unknown) => said.push(what),
    terminate: () => said.push('ended'),
  };
  return { started, said, tick: () => started.onmessage!.call(started as Worker, new MessageEvent('message')) };
}

beforeEach(() => jest.useFakeTimers());
afterEach(() => jest.useRealTimers());

test('a clock whose thread could not be fetched still calls back, so that what hands did is handed over', () => {
  const { started, said } = thread();
  const act = jest.fn();
  const end = new PageClock(() => started).run(act);
  jest.advanceTimersByTime(100);
  expect(act).toHaveBeenCalledTimes(6);
  end();
  jest.advanceTimersByTime(100);
  expect(act).toHaveBeenCalledTimes(6);
  expect(said).toEqual([16, null]);
});

test('once the thread ticks, it alone does, and again when something is wanted later', () => {
  const { started, tick } = thread();
  const clock = new PageClock(() => started);
  const act = jest.fn();
  const end = clock.run(act);
  tick();
  jest.advanceTimersByTime(100);
  expect(act).toHaveBeenCalledTimes(1);
  end();
  clock.run(act);
  jest.advanceTimersByTime(100);
  expect(act).toHaveBeenCalledTimes(1);
  tick();
  expect(act).toHaveBeenCalledTimes(2);
});
