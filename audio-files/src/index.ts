export { AudioTrouble } from './audioTrouble.js';
export { BLOCK_FRAMES, WavFile, withWav } from './wavFile.js';
export { syncToDisk, writeWav, writeWhole, type WavTo } from './wavWriter.js';
export { SongFiles } from './songFiles.js';
export { bounceToFile, type BounceOrder, type Bounced } from './bounceFile.js';
export { LOUDNESS_STEP_SEC, loudnessOver, withMix } from './songMix.js';
