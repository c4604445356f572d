/** In a page: what the shaders have at a place of a prop, and what the CPU says of the same place. */
import { pinsOf } from '../../src/core/scene/pins.js';
import { readEffect } from '../../src/core/effect/read.js';
import type { Effect } from '../../src/core/effect/schema.js';
import { readStage, type Stage } from '../../src/core/scene/stage.js';
import { LEAVES, type Leaf } from '../../src/core/ir/leaves.js';
import { widthOf } from '../../src/core/ir/types.js';
import { lower } from '../../src/core/lower/lower.js';
import { fillBlock } from '../../src/core/targets/block.js';
import { emitGlsl } from '../../src/core/targets/glsl.js';
import { Materials } from '../../src/core/scene/materials.js';
import { WornOnStage, steadyOf } from '../../src/core/scene/worn.js';
import { Graphics } from '../../src/render/graphics.js';
import { StageRenderer } from '../../src/render/renderer.js';
import type { LeafValues } from '../../src/core/targets/wasm/runner.js';
import type { MeshData } from '../../src/core/mesh/mesh.js';

const WIDTH = 320;
const HEIGHT = 200;
const canvas = document.body.appendChild(document.createElement('canvas'));
const renderer = new StageRenderer(new Graphics(canvas));
renderer.resize({ width: WIDTH, height: HEIGHT });
const pictures = new Map();
let worn = new WornOnStage(new Materials(pictures));
let stage: Stage;
let effect: Effect;

/** Three components and a fourth that a picture of colours has no room for. */
const LANES = 3;

export async function set(given: {
  stage: unknown;
  effect: unknown;
  meshes?: Record<string, MeshData>;
  time: number;
}): Promise<void> {
  const [s, e] = [readStage(given.stage), readEffect(given.effect)];
  if (!s.ok || !e.ok) throw new Error([...(s.ok ? [] : s.problems), ...(e.ok ? [] : e.problems)].map((p) => p.message).join());
  ({ stage } = s);
  ({ effect } = e);
  for (const [sha, mesh] of Object.entries(given.meshes ?? {})) renderer.provideMesh(sha, mesh);
  renderer.setStage(stage);
  renderer.looking.from(stage.viewpoints[0]!);
  worn = new WornOnStage(new Materials(pictures));
  await renderer.dressing.dress(worn.update(stage, new Map([[effect.id, effect]]), effect));
  renderer.dressing.fill(stage, given.time, pictures);
  renderer.frame.draw({ adapt: false });
}

/** Where each pin of the stage is seen, in pixels from the bottom left, and what the CPU has there of each place. */
export function onCpu(leaves: readonly Leaf[], time: number): { at: [number, number]; values: Record<string, number[]> }[] {
  return pinsOf(stage).map((pin) => {
    const place = renderer.pointing.placeOn(pin, renderer.dressing.moveBy(stage, pin.prop, time))!;
    const known = { ...place.leaves, ...renderer.pointing.gapsAt(pin.prop, place), ...steadyOf(stage, pin.prop) } as LeafValues;
    const { x, y } = renderer.pointing.project(place.world);
    const numbers = (leaf: Leaf) => (known[leaf] ?? [...LEAVES[leaf].fallback]).map((v) => (typeof v === 'number' ? v : v[0]!));
    return { at: [x * WIDTH, (1 - y) * HEIGHT], values: Object.fromEntries(leaves.map((l) => [l, numbers(l)])) };
  });
}

/** The same places as the swatches read them: the nearest of their points to each pin. */
export function inSwatch(leaves: readonly Leaf[]): { position: number[]; values: Record<string, number[]> }[] {
  return pinsOf(stage).map((pin) => {
    const { mask, planes } = renderer.placesOf(pin.prop, 64, 48)!;
    let best = 0;
    let nearest = Infinity;
    mask.forEach((m, k) => {
      const far = m > 0 ? Math.hypot(...pin.position.map((p, lane) => planes.position![lane]![k]! - p)) : Infinity;
      if (far < nearest) [best, nearest] = [k, far];
    });
    const numbers = (leaf: Leaf) => planes[leaf]?.map((lane) => lane[best]!) ?? [...LEAVES[leaf].fallback];
    return { position: numbers('position'), values: Object.fromEntries(leaves.map((l) => [l, numbers(l)])) };
  });
}

/** The places at which a prop's light is gathered: where each is seen, how far from the eye, and what the CPU has there. */
export function inSpill(
  prop: string,
  leaves: readonly Leaf[],
  time: number,
): { at: [number, number]; depth: number; values: Record<string, number[]> }[] {
  const known = renderer.scenery.spill.placesOf(prop, renderer.dressing.moveBy(stage, prop, time))!;
  const world = renderer.scenery.spill.worldOf(prop)!;
  const forward = renderer.camera.getWorldDirection(renderer.camera.position.clone());
  return Array.from(world[0]!, (_, k) => {
    const point = world.map((lane) => lane[k]!) as [number, number, number];
    const { x, y } = renderer.pointing.project(point);
    const away = renderer.camera.position
      .clone()
      .set(...point)
      .sub(renderer.camera.position);
    const numbers = (leaf: Leaf) => known[leaf]!.map((v) => (typeof v === 'number' ? v : v[k]!));
    return {
      at: [x * WIDTH, (1 - y) * HEIGHT],
      depth: away.dot(forward),
      values: Object.fromEntries(leaves.map((l) => [l, numbers(l)])),
    };
  });
}

/** What the shader has of a place, in the 5 x 5 pixels around each of these: three components and whether there is a surface. */
export async function onGpu(leaf: Leaf, places: readonly (readonly [number, number])[], time: number): Promise<number[][][]> {
  const width = widthOf(LEAVES[leaf].type);
  const ours = worn.all.find((o) => o.shown.id === effect.id)!;
  const program = lower(ours.shown, { build: 'live' });
  const { builder: b } = program;
  const node = b.leaf(leaf);
  const lanes = Array.from({ length: LANES }, (_, k) => b.pick(node, Math.min(k, width - 1)));
  const outputs = new Map(program.outputs).set('emission', { kind: 'rgb', node: b.join(...lanes) });
  const text = emitGlsl({ ...program, outputs }, { hoist: true, naming: 'ids', only: ['emission', 'displacement'], lit: true });
  const finish = ours.material.finish;
  if (!(await renderer.wearPeek(worn.all.map(({ prop }) => ({ prop, text, finish }))))) throw new Error('overtaken');
  for (const { prop, params } of worn.all)
    renderer.peek.setBlock(prop, text, fillBlock(text, params, time, effect.loop, steadyOf(stage, prop)));
  renderer.frame.peekLook = { mode: 'unit', low: 0, high: 1, lanes: 3, colour: false };
  renderer.frame.draw({ adapt: false });
  const values = await renderer.peek.values();
  return places.map(([x, y]) => {
    const around: number[][] = [];
    for (let dy = -2; dy <= 2; dy++)
      for (let dx = -2; dx <= 2; dx++) {
        const [px, py] = [Math.floor(x) + dx, Math.floor(y) + dy];
        around.push([px + 0.5, py + 0.5, ...values.slice((py * WIDTH + px) * 4, (py * WIDTH + px) * 4 + 4)]);
      }
    return around;
  });
}
