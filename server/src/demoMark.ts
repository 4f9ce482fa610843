import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Says that the demo was made once: a demo that its owner removed does not come back. */
export const DEMO_MARK = 'demo-made';
const markIn = (dataFolder: string): string => join(dataFolder, DEMO_MARK);

export const isDemoMade = (dataFolder: string): boolean => existsSync(markIn(dataFolder));

export const markDemoMade = (dataFolder: string): void => writeFileSync(markIn(dataFolder), '');
