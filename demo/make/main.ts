/**
 * Makes what Sallowmere Station is built of: `npm run demo:make`. The same bytes again at every making.
 * @param argv names of the sets to make; all of them where none is given
 */
import { createHash } from 'node:crypto';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { readGlb } from '../../src/core/formats/glb.js';
import { writePaint } from '../../src/core/formats/paintFile.js';
import { canvasOf } from '../../src/core/paint/paint.js';
import { glbOf } from './file.js';
import { surfaces } from './materials.js';
import { PAINTS } from './paints.js';
import { PICTURES } from './pictures.js';
import { SETS } from './sets.js';
import { stampStages } from './stamp.js';

const folder = join(import.meta.dirname, '..', 'meshes');
mkdirSync(folder, { recursive: true });
const images = join(import.meta.dirname, '..', 'images');
mkdirSync(images, { recursive: true });
const paints = join(import.meta.dirname, '..', 'paints');
mkdirSync(paints, { recursive: true });
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
for (const [file, { mesh, paint }] of Object.entries(PAINTS)) {
  if (wanted.length > 0 && !wanted.includes(mesh)) continue;
  const { position, normal, index } = await readGlb(new Uint8Array(readFileSync(join(folder, `${mesh}.glb`))));
  writeFileSync(join(paints, file), writePaint(paint(canvasOf({ position, normal, index }))));
}
stampStages(join(import.meta.dirname, '..'));
