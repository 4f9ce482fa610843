export type { Effect, EffectParam, EffectSettings, KernelOf } from './effect.js';
export { EffectKernel, GRID_FRAMES } from './kernel.js';
export { Compressor, reductionDb } from './compressor.js';
export { parameterTableText, settingTableText } from './effectTable.js';
export { EFFECTS, defaultsOf, settingsWrong } from './registry.js';
