/**
 * Makes what Sallowmere Station is built of: `npm run demo:make`. The same bytes again at every making.
 * @param argv names of the sets to make; all of them where none is given
 */
import { createHash } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { glbOf } from './file.js';
import { surfaces } from './materials.js';
import { PICTURES } from './pictures.js';
import { SETS } from './sets.js';
import { stampStages } from './stamp.js';

const folder = join(import.meta.dirname, '..', 'meshes');
mkdirSync(folder, { recursive: true });
const images = join(import.meta.dirname, '..', 'images');
mkdirSync(images, { recursive: true });
const wanted = process.argv.slice(2);
for (const [file, make] of Object.entries(PICTURES))
  if (wanted.length === 0 || wanted.includes(file)) writeFileSync(join(images, file), await make());
const known = await surfaces();
for (const { name, make, ...making } of SETS) {
  if (wanted.length > 0 && !wanted.includes(name)) continue;
  const began = performance.now();
  const shape = make();
  const bytes = await glbOf(name, shape, known, making);
  writeFileSync(join(folder, `${name}.glb`), bytes);
  const vertices = shape.pieces.reduce((sum, p) => sum + p.geometry.getAttribute('position').count, 0);
  const triangles = shape.pieces.reduce((sum, p) => sum + p.geometry.getIndex()!.count / 3, 0);
  const sha = createHash('sha256').update(bytes).digest('hex').slice(0, 12);
  const seconds = ((performance.now() - began) / 1000).toFixed(1);
  console.log(`${name}: ${(bytes.length / 1048576).toFixed(2)} MB, ${vertices} vertices, ${triangles} triangles, ${sha}, ${seconds} s`);
}
stampStages(join(import.meta.dirname, '..'));
