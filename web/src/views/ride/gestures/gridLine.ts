import { snap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { store } from '../../../store/store.js';
import type { StageRef } from './gesture.js';

/** The line of the chosen grid that is nearest to a time; null where nothing snaps. */
export function gridLineAt(stage: StageRef, t: Seconds): Seconds | null {
  const { song, map } = stage.current;
  const { grid, format } = store.getState().view;
  return grid && snap({ map, sections: song.sections, format }, grid, Math.max(0, t));
}
