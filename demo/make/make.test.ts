/** The shipped meshes: small, valid, made again to the same bytes, and those that the stages name. */
import { createHash } from 'node:crypto';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import validator from 'gltf-validator';
import { PAINT_TYPE, paintFor, readPaint, writePaint } from '../../src/core/formats/paintFile.js';
import { canvasOf } from '../../src/core/paint/paint.js';
import { PAINTS } from './paints.js';
import { readGlb } from '../../src/core/formats/glb.js';
import { readStage } from '../../src/core/scene/stage.js';
import { readEffect } from '../../src/core/effect/read.js';
import { glbOf } from './file.js';
import { surfaces } from './materials.js';
import { PICTURES } from './pictures.js';
import { SETS } from './sets.js';

const demo = join(import.meta.dirname, '..');
const files = readdirSync(join(demo, 'meshes'));
const images = readdirSync(join(demo, 'images'));
const bytesOf = (file: string) => new Uint8Array(readFileSync(join(demo, 'meshes', file)));
const paintOf = (file: string) => new Uint8Array(readFileSync(join(demo, 'paints', file)));
const sumOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

test('all together at most 12 MB, one file a set and none besides', () => {
  expect(files.sort()).toEqual(SETS.map((s) => `${s.name}.glb`).sort());
  const all = [...files.map((f) => bytesOf(f)), ...images.map((f) => readFileSync(join(demo, 'images', f)))];
  expect(all.reduce((sum, bytes) => sum + bytes.length, 0)).toBeLessThan(12 * 1024 * 1024);
});

test.each(files)('%s is valid glTF 2.0, and is read with its surfaces', async (file) => {
  const { issues } = await validator.validateBytes(bytesOf(file));
  expect(issues.numErrors).toBe(0);
  const mesh = await readGlb(bytesOf(file));
  expect(mesh.parts.length).toBeGreaterThan(0);
  expect(mesh.parts.reduce((sum, p) => sum + p.count, 0)).toBe(mesh.index.length);
  // Nothing stands over the sea; and what a fin carries is painted on the stage.
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
    for (const { name, sha256, size, type } of Object.values(read.stage.assets)) {
      const bytes = type === PAINT_TYPE ? paintOf(name) : bytesOf(name);
      expect([name, sha256, size]).toEqual([name, sumOf(bytes), bytes.length]);
    }
  }
});

test('paint is made again to the same bytes, of as many vertices as its mesh has', async () => {
  expect(readdirSync(join(demo, 'paints')).sort()).toEqual(Object.keys(PAINTS).sort());
  for (const [file, { mesh, paint }] of Object.entries(PAINTS)) {
    const { position, normal, index, about } = await readGlb(bytesOf(`${mesh}.glb`));
    expect(sumOf(writePaint(paint(canvasOf({ position, normal, index }))))).toBe(sumOf(paintOf(file)));
    expect(paintFor(readPaint(paintOf(file)), about.vertices)).not.toBeNull();
  }
});

test('pictures are made again to the same bytes, and starters name them by those', async () => {
  expect(images.sort()).toEqual(Object.keys(PICTURES).sort());
  for (const [name, make] of Object.entries(PICTURES))
    expect([name, sumOf(await make())]).toEqual([name, sumOf(readFileSync(join(demo, 'images', name)))]);
  const named = readdirSync(join(demo, 'starters')).flatMap((file) => {
    const read = readEffect(JSON.parse(readFileSync(join(demo, 'starters', file), 'utf8')));
    return read.ok ? Object.values(read.effect.assets) : [];
  });
  expect(named.map((a) => a.name).sort()).toEqual(images);
  for (const { name, sha256 } of named) expect([name, sha256]).toEqual([name, sumOf(readFileSync(join(demo, 'images', name)))]);
});

// The deep run makes all of them again; here the smallest, whose surface is baked and whose shape is broken and simplified.
const again = process.env.WISPEN_DEEP ? SETS : SETS.filter((s) => s.name === 'nodule');
test.each(again.map((s) => s.name))('%s is made again to the same bytes', async (name) => {
  const { make, ...making } = SETS.find((s) => s.name === name)!;
  const shape = make();
  const known = await surfaces(new Set(shape.pieces.map((p) => p.surface)));
  expect(sumOf(await glbOf(name, shape, known, making))).toBe(sumOf(bytesOf(`${name}.glb`)));
}, 240_000);
