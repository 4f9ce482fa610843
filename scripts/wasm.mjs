import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import wabt from 'wabt';
import { root } from './lib.mjs';

// Makes the inner loops that are written for the machine from their text. What comes out stands in the tree; tests hold the two together.
const { parseWat } = await wabt();
for (const [folder, text, code, name] of [
  ['core/src/mix', 'simdLoops.wat', 'simdCode.ts', 'SIMD_CODE'],
  ['core/src/effects', 'sections.wat', 'sectionsCode.ts', 'SECTIONS_CODE'],
  ['core/src/curve', 'growth.wat', 'growthCode.ts', 'GROWTH_CODE'],
]) {
  const { buffer } = parseWat(text, readFileSync(join(root, folder, text), 'utf8'), { simd: true }).toBinary({});
  writeFileSync(
    join(root, folder, code),
    `/** ${text} as WebAssembly, in base64: made by \`npm run wasm\`, not by hand. */
export const ${name} =
  '${Buffer.from(buffer).toString('base64')}';
`,
  );
  console.log(`${code}: ${buffer.length} bytes`);
}
