/** Paint of a mesh as surfaces read it: never more than was painted, however thin the triangle. On pixels. */
import { BufferAttribute, BufferGeometry, Mesh, MeshBasicMaterial } from 'three';
import type { Stage } from '../../src/core/scene/stage.js';
import { expect, openBench, pixelsAt, saved, stageCanvas, test } from './app.js';
import { dropOnStage, meshFile } from './meshes.js';
import { OPEN, effect, onwards, stageWith, v } from './panes.js';

test.use({ viewport: { width: 1280, height: 800 } });

const NEEDLES = 300;
/** Upright needles, a tenth of a pixel wide, painted red 0 along one side and 1 along the other. */
function needles(): Mesh {
  const [place, colour] = [new Float32Array(NEEDLES * 9), new Float32Array(NEEDLES * 9)];
  for (let k = 0; k < NEEDLES; k++) {
    const x = (k / NEEDLES - 0.5) * 2 + 0.0007 * (k % 7);
    place.set([x, -0.8, 0, x + 0.0004, -0.8, 0, x, 0.8, 0], k * 9);
    colour.set([0, 0, 0, 1, 0, 0, 0, 0, 0], k * 9);
  }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(place, 3));
  geometry.setAttribute('color', new BufferAttribute(colour, 3));
  return new Mesh(geometry, new MeshBasicMaterial({ vertexColors: true }));
}

test('a steep power of paint on slivers is no brighter than paint of 1', async ({ page, app }) => {
  onwards(990);
  const id = await effect(
    app,
    [
      { id: 'p', name: 'P', op: 'vertexColour' },
      { id: 'q', name: 'Q', op: 'power', inputs: { in: { from: 'p', port: 'r' }, exponent: v(5) } },
      { id: 'e', name: 'E', op: 'multiply', inputs: { a: { from: 'q' }, b: v([1, 1, 1]) } },
    ],
    { emission: { from: 'e' } },
    { sides: 'both' },
  );
  const surroundings = { asset: null, rgb: [0, 0, 0], strength: 0, turn: 0, seen: false } as Stage['surroundings'];
  await stageWith(app, [], [0, 0, 5], false, { surroundings, lights: [] });
  await openBench(page, app, id, OPEN);
  await dropOnStage(page, 'needles.glb', await meshFile(needles()));
  await saved(page);
  const { width, height } = (await stageCanvas(page).boundingBox())!;
  const band = Array.from({ length: Math.floor(width) * 3 }, (_, k): [number, number] => [
    (k % Math.floor(width)) + 0.5,
    height / 2 + (Math.floor(k / Math.floor(width)) - 1) * 40,
  ]);
  const seen = async () => (await pixelsAt(page, band)).map(([, g]) => g);
  // Some sample of a pixel in some needle, and no more than a quarter of the pixel.
  await expect.poll(async () => Math.max(...(await seen()))).toBeGreaterThan(0);
  expect(Math.max(...(await seen()))).toBeLessThan(150);
});
