import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { editTableText } from '../core/dist/edits/index.js';
import { parameterTableText, settingTableText } from '../core/dist/effects/index.js';
import { SONG_SCHEMA } from '../core/dist/song/index.js';
import { root } from './lib.mjs';

// Publishes what the core says of itself: the JSON Schema of the song document, the table of docs/edits.md, those of
// docs/effects.md. Tests hold the files to the core's.
writeFileSync(join(root, 'docs/song.schema.json'), `${JSON.stringify(SONG_SCHEMA, null, 2)}\n`);
/** Puts tables in the place of those of a page, in their order. */
function published(page, ...tables) {
  const file = join(root, 'docs', page);
  let place = 0;
  writeFileSync(
    file,
    readFileSync(file, 'utf8').replace(/(^\|.*\|\n)+/gm, () => `${tables[place++]}\n`),
  );
}
published('edits.md', editTableText());
published('effects.md', parameterTableText(), settingTableText());
