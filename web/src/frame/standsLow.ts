import { channelNamed } from '@sure-hand/core/song';

/** Whether the row of a control stands in the lower half of the window: then a sheet about it stands high. */
export function standsLow(inHand: string | null): boolean {
  const row = inHand && document.querySelector(`[data-testid="row-${CSS.escape(channelNamed(inHand))}"]`);
  return !!row && row.getBoundingClientRect().bottom > window.innerHeight / 2;
}
