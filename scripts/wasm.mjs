import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import wabt from 'wabt';
import { root } from './lib.mjs';

// Makes the vector loops of the mix from their text. What comes out stands in the tree; a test holds the two together.
const folder = join(root, 'core/src/mix');
const { parseWat } = await wabt();
const { buffer } = parseWat('simdLoops.wat', readFileSync(join(folder, 'simdLoops.wat'), 'utf8'), {
  simd: true,
}).toBinary({});
const text = Buffer.from(buffer).toString('base64');
writeFileSync(
  join(folder, 'simdCode.ts'),
  `/** simdLoops.wat as WebAssembly, in base64: made by \`npm run wasm\`, not by hand. */
export const SIMD_CODE =
  '${text}';
`,
);
console.log(`${buffer.length} bytes`);
