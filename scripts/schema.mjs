import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { SONG_SCHEMA } from '../core/dist/song/index.js';
import { root } from './lib.mjs';

// Publishes the JSON Schema of the song document; a test holds the file to the core's.
writeFileSync(join(root, 'docs/song.schema.json'), `${JSON.stringify(SONG_SCHEMA, null, 2)}\n`);
