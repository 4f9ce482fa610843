const STORED = 'sure-hand/tour';

/** Where the tour is: never offered yet, at a step, or left. */
export type TourAt = { readonly step: number } | 'left' | null;

/** The tour as this browser has it. */
export function tourKept(): TourAt {
  try {
    const kept = JSON.parse(localStorage.getItem(STORED) ?? 'null') as unknown;
    if (kept === 'left') return 'left';
    const step = (kept as { step?: unknown } | null)?.step;
    return typeof step === 'number' && Number.isInteger(step) && step >= 0 ? { step } : null;
  } catch {
    return null;
  }
}

export function keepTour(at: TourAt): void {
  try {
    localStorage.setItem(STORED, JSON.stringify(at));
  } catch {
    // A browser that keeps nothing offers it again.
  }
}
