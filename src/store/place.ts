/** Where the data folder is, unless something else is said. */
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/** The repository. */
export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..', '..');
export const DATA_FOLDER = resolve(process.env.WISPEN_DATA || join(ROOT, '.wispen-data'));
