import fc from 'fast-check';

// What is drawn is the same at each `npm test`, so that its verdict is; `npm run harness` draws anew each time, or by SURE_HAND_SEED.
const { SURE_HAND_ALL, SURE_HAND_SEED } = process.env;
if (SURE_HAND_SEED || !SURE_HAND_ALL) fc.configureGlobal({ seed: Number(SURE_HAND_SEED ?? 20261201) });
