export { makeSong, type DemoName, type MakeOptions, type Progress } from './makeSong.js';
export { TRACKS } from './score/tracks.js';
export { demoStates } from './demoSnapshots.js';
export { demoPasses, solvedNotes, type DemoPass } from './demoPasses.js';
export { WEIR_LIGHTS } from './score/form.js';
export { coughTimes } from './parts/voices.js';
