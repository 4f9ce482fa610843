import type { ControlId } from '../song/index.js';

/** What waits for a pass: poised controls, those of them that a snapshot has poised, and what is held aside, which no pass writes. */
export type Waiting = {
  readonly poised: ReadonlySet<ControlId>;
  readonly recalled?: ReadonlySet<ControlId>;
  readonly aside?: ReadonlySet<ControlId>;
};
