/** The shipped meshes: small, valid, made again to the same bytes, and those that the stages name. */
import { createHash } from 'node:crypto';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import validator from 'gltf-validator';
import { readGlb } from '../../src/core/formats/glb.js';
import { readStage } from '../../src/core/scene/stage.js';
import { glbOf } from './file.js';
import { surfaces } from './materials.js';
import { SETS } from './sets.js';

const demo = join(import.meta.dirname, '..');
const files = readdirSync(join(demo, 'meshes'));
const bytesOf = (file: string) => new Uint8Array(readFileSync(join(demo, 'meshes', file)));
const sumOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

test('all together at most 12 MB, one file a set and none besides', () => {
  expect(files.sort()).toEqual(SETS.map((s) => `${s.name}.glb`).sort());
  expect(files.reduce((sum, f) => sum + bytesOf(f).length, 0)).toBeLessThan(12 * 1024 * 1024);
});

test.each(files)('%s is valid glTF 2.0, and is read with its surfaces', async (file) => {
  const { issues } = await validator.validateBytes(bytesOf(file));
  expect(issues.numErrors).toBe(0);
  const mesh = await readGlb(bytesOf(file));
  expect(mesh.parts.length).toBeGreaterThan(0);
  expect(mesh.parts.reduce((sum, p) => sum + p.count, 0)).toBe(mesh.index.length);
  // Nothing stands over the sea.
  if (SETS.find((s) => `${s.name}.glb` === file)!.uneven === 0) return;
  // What it sees of the sky: in the mean most of it, here and there little.
  const light = Float32Array.from({ length: mesh.colour!.length / 4 }, (_, k) => mesh.colour![4 * k]!);
  expect(light.reduce((sum, v) => sum + v / light.length, 0)).toBeGreaterThan(0.3);
  expect(Math.max(...light) - Math.min(...light)).toBeGreaterThan(0.15);
});

test('the stages have three viewpoints, and name their meshes by the bytes that they have', () => {
  for (const file of readdirSync(join(demo, 'stages'))) {
    const read = readStage(JSON.parse(readFileSync(join(demo, 'stages', file), 'utf8')));
    if (!read.ok) throw new Error(read.problems[0]!.message);
    // As a photographer leaves it: three places to look from, each with its name.
    expect(new Set(read.stage.viewpoints.map((v) => v.name)).size).toBeGreaterThanOrEqual(3);
    for (const { name, sha256, size } of Object.values(read.stage.assets))
      expect([name, sha256, size]).toEqual([name, sumOf(bytesOf(name)), bytesOf(name).length]);
  }
});

// The deep run makes all of them again; here the smallest, whose surface is baked and whose shape is broken and simplified.
const again = process.env.WISPEN_DEEP ? SETS : SETS.filter((s) => s.name === 'nodule');
test.each(again.map((s) => s.name))('%s is made again to the same bytes', async (name) => {
  const { make, ...making } = SETS.find((s) => s.name === name)!;
  const shape = make();
  const known = await surfaces(new Set(shape.pieces.map((p) => p.surface)));
  expect(sumOf(await glbOf(name, shape, known, making))).toBe(sumOf(bytesOf(`${name}.glb`)));
}, 240_000);
