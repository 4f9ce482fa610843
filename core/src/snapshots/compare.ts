import { controlOf, controlsOf, type ControlId, type Song } from '../song/index.js';
import { travelOf, type Travel } from '../units/index.js';

/** One control in two states: its value in each, null where one of them does not have it, and how far apart they are, in travel. */
export type Compared = {
  readonly control: ControlId;
  readonly a: number | null;
  readonly b: number | null;
  /** From a to b; null where there is no b or no a. */
  readonly travel: Travel | null;
};

type Values = { readonly [id: ControlId]: number };

/** Less than this, in travel, is no difference. */
const SAME_TRAVEL: Travel = 1e-9;

/** Whether two states of a control are apart: one lacks it, or has another value. */
export const isApart = ({ travel }: Compared): boolean => travel === null || Math.abs(travel) > SAME_TRAVEL;

/**
 * Two states, control by control: the furthest apart first, in travel; then what one of them lacks; then what is the same in both, in
 * the song's order. Controls that the song does not have are left out.
 */
export function comparedValues(song: Song, a: Values, b: Values): Compared[] {
  const own = (of: Values, id: ControlId): number | null => (Object.hasOwn(of, id) ? of[id]! : null);
  const rows = [...controlsOf(song).keys()].flatMap((control): Compared[] => {
    const [was, is] = [own(a, control), own(b, control)];
    if (was === null && is === null) return [];
    const { law } = controlOf(song, control);
    const travel = was === null || is === null ? null : travelOf(law, is) - travelOf(law, was);
    return [{ control, a: was, b: is, travel }];
  });
  const rank = (one: Compared): number => (one.travel === null ? 1e-6 : Math.abs(one.travel));
  return rows
    .map((one, i) => ({ one, i }))
    .sort((x, y) => rank(y.one) - rank(x.one) || x.i - y.i)
    .map(({ one }) => one);
}
