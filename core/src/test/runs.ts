/** How often a property is tried that is slow to try: as often as it says by `npm run harness`, a third of that with every test. */
export const runs = (whole: number): number => (process.env.SURE_HAND_ALL ? whole : Math.ceil(whole / 3));
