import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { editTableText } from '../core/dist/edits/index.js';
import { SONG_SCHEMA } from '../core/dist/song/index.js';
import { root } from './lib.mjs';

// Publishes what the core says of itself: the JSON Schema of the song document, and the table of docs/edits.md. Tests hold
// both files to the core's.
writeFileSync(join(root, 'docs/song.schema.json'), `${JSON.stringify(SONG_SCHEMA, null, 2)}\n`);
const edits = join(root, 'docs/edits.md');
const text = readFileSync(edits, 'utf8');
writeFileSync(edits, text.replace(/^\|[^]*\|$/m, editTableText()));
