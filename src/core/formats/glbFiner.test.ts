/** Meshes cut finer: the same surface of four times the triangles, by the mean of their ends (geometry). */
import { Document, WebIO } from '@gltf-transform/core';
import validator from 'gltf-validator';
import { readGlb } from './glb.js';
import { finerGlb } from './glbFiner.js';

/** A strip of two triangles in slate, and a fan of two in glass that two nodes show; every vertex with all it can carry. */
async function roof(): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const of = (type: 'VEC2' | 'VEC3' | 'VEC4', ...values: number[]) =>
    document.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer);
  const bytes = document.createAccessor().setType('VEC4').setNormalized(true).setBuffer(buffer);
  bytes.setArray(Uint8Array.of(0, 0, 0, 255, 255, 0, 0, 255, 0, 255, 0, 255, 255, 255, 0, 255));
  const pane = (name: string, mode: 5 | 6, order: number[]) =>
    document
      .createPrimitive()
      .setMode(mode)
      .setAttribute('POSITION', of('VEC3', 0, 0, 0, 2, 0, 0, 0, 0, 2, 2, 0, 2))
      .setAttribute('NORMAL', of('VEC3', -0.6, 0.8, 0, 0.6, 0.8, 0, -0.6, 0.8, 0, 0.6, 0.8, 0))
      .setAttribute('TEXCOORD_0', of('VEC2', 0, 0, 1, 0, 0, 1, 1, 1))
      .setAttribute('COLOR_0', bytes)
      .setIndices(document.createAccessor().setType('SCALAR').setArray(Uint16Array.from(order)).setBuffer(buffer))
      .setMaterial(document.createMaterial(name).setBaseColorFactor([0.2, 0.3, 0.4, 1]));
  const scene = document.createScene();
  const [strip, fan] = [pane('Slate', 5, [0, 2, 1, 3]), pane('Glass', 6, [0, 2, 3, 1])];
  scene.addChild(document.createNode().setMesh(document.createMesh().addPrimitive(strip)));
  const glass = document.createMesh().addPrimitive(fan);
  for (const x of [5, 9]) scene.addChild(document.createNode().setMesh(glass).setTranslation([x, 0, 0]));
  return new WebIO().writeBinary(document);
}

test('four triangles for each: the same area, edges shared, what vertices carry halfway, materials and nodes as they were', async () => {
  const file = await roof();
  const [was, is] = [await readGlb(file), await readGlb(await finerGlb(file))];
  expect((await validator.validateBytes(await finerGlb(file))).issues.numErrors).toBe(0);
  // Four corners and five middles of sides, in each of three panes.
  expect(is.about).toMatchObject({ triangles: 24, vertices: 27, low: was.about.low, high: was.about.high });
  expect(is.parts.map(({ surface, start, count }) => [surface.name, start, count])).toEqual(
    was.parts.map(({ surface, start, count }) => [surface.name, start * 4, count * 4]),
  );
  let area = 0;
  for (let k = 0; k < is.index.length; k += 3) {
    const [a, b, c] = [0, 1, 2].map((i) => [...is.position.subarray(is.index[k + i]! * 3, is.index[k + i]! * 3 + 3)]) as [
      number[],
      number[],
      number[],
    ];
    const [ux, uz, vx, vz] = [b[0]! - a[0]!, b[2]! - a[2]!, c[0]! - a[0]!, c[2]! - a[2]!];
    // All of them turned the same way as before: up.
    expect(uz * vx - ux * vz).toBeGreaterThan(0);
    area += (uz * vx - ux * vz) / 2;
  }
  expect(area).toBeCloseTo(12, 5);
  for (let v = 0; v < 9; v++) {
    const [x, , z] = is.position.subarray(v * 3, v * 3 + 3) as unknown as [number, number, number];
    expect([...is.uv.subarray(v * 2, v * 2 + 2)]).toEqual([x / 2, 1 - z / 2]);
    expect(Math.hypot(...is.normal.subarray(v * 3, v * 3 + 3))).toBeCloseTo(1, 5);
    // Red goes along x, green along z.
    expect([is.colour![v * 4], is.colour![v * 4 + 1]]).toEqual([expect.closeTo(x / 2, 5), expect.closeTo(z / 2, 5)]);
  }
  // Once more: sixteen for each.
  expect((await readGlb(await finerGlb(await finerGlb(file)))).about.triangles).toBe(96);
});

test('what would have too many, or is no mesh, is refused in a sentence', async () => {
  await expect(finerGlb(Uint8Array.of(1, 2, 3))).rejects.toThrow(/too short/);
});
