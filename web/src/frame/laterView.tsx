import { useEffect, useState, useSyncExternalStore, type ComponentType, type ReactNode } from 'react';
import { whenIdle } from '../store/whenIdle.js';

/** How soon the program of a view is asked for again where it could not be fetched. */
const AGAIN_MS = 1500;

/** A view whose program is fetched when it is first shown, or before that: see {@link fetchAhead}. */
export type LaterView = ComponentType & { readonly fetch: () => Promise<void> };

/**
 * Makes a view of one whose program is fetched later. With the server away it says so, and shows it as soon as it can be
 * fetched. `fetch`: as `() => import(…)`.
 */
export function laterView(fetch: () => Promise<ComponentType>): LaterView {
  let View: ComponentType | null = null;
  const listeners = new Set<() => void>();
  const load = async (): Promise<void> => {
    View ??= await fetch();
    for (const listener of listeners) listener();
  };
  // It may come at any moment, also between a picture that lacks it and what is done after that.
  const subscribe = (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  };
  function Later(): ReactNode {
    const Shown = useSyncExternalStore(subscribe, () => View);
    const [isAway, setAway] = useState(false);
    useEffect(() => {
      let timer: ReturnType<typeof setTimeout> | undefined;
      let isGone = false;
      const look = (): void =>
        void load().catch(() => {
          if (isGone) return;
          setAway(true);
          timer = setTimeout(look, AGAIN_MS);
        });
      look();
      return () => {
        isGone = true;
        clearTimeout(timer);
      };
    }, []);
    if (Shown) return <Shown />;
    return (
      <main className="page" role="status">
        {isAway && 'This view could not be fetched: the server can’t be reached. It is shown as soon as it is back.'}
      </main>
    );
  }
  return Object.assign(Later, { fetch: load });
}

/** A song that rolls leaves no idle moment: then they come all the same. */
const AHEAD_WITHIN_MS = 500;

/** Fetches the programs of views once there is nothing else to do: then they are there when the server is not. */
export function fetchAhead(views: readonly LaterView[]): void {
  const fetchAll = (): void => {
    for (const view of views) view.fetch().catch(() => undefined);
  };
  whenIdle(fetchAll, AHEAD_WITHIN_MS);
}
