/** Writes docs/operators.md from the catalogue. */
import { writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { handbook } from '../src/core/operators/handbook.js';

writeFileSync(join(dirname(fileURLToPath(import.meta.url)), '../docs/operators.md'), handbook());
