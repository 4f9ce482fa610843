export { LoudnessMeter, loudnessOf, type Lufs } from './meter.js';
export { Programme, integrated, loudnessRange, type LoudnessReport } from './programme.js';
export { TruePeak, bessel } from './truePeak.js';
