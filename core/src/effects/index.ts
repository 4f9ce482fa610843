export type { Effect, EffectParam, EffectSettings, KernelOf, ParamReach } from './effect.js';
export type { Choice, Setting } from './setting.js';
export { EffectKernel, GRID_FRAMES, STRAIGHT } from './kernel.js';
export { Compressor, compressedLevel } from './compressor.js';
export { sectionResponse, type Response } from './magnitude.js';
export { parameterTableText, settingTableText } from './effectTable.js';
export { EFFECTS, defaultsOf, settingsWrong } from './registry.js';
