import {
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  ShaderLib,
  SphereGeometry,
  Vector3,
  type WebGLProgramParametersWithUniforms,
} from 'three';
import { effectOf } from '../../tests/fixtures/sheets.js';
import type { Strand } from '../core/effect/schema.js';
import type { Leaf } from '../core/ir/leaves.js';
import { reduced } from '../core/mesh/reduce.js';
import { lower } from '../core/lower/lower.js';
import { emitGlsl, type GlslText } from '../core/targets/glsl.js';
import { effectMaterial, programKey } from './effectMaterial.js';
import { fitted, geometryFromMesh, geometryOf, reducedOf } from './geometry.js';
import { ProgramState } from './programState.js';
import { firstBehind } from './rays.js';
import { STILL_SAMPLES, jitterOf, lightPlaceOf } from './still.js';
import { makeRoom } from './room.js';
import { SPILL_POINTS } from '../core/scene/materials.js';
import { Spill } from './spill.js';
import { Shading } from './shading.js';
import { pointsOn } from './surface.js';
import { shareOf } from '../core/optics/emitters.js';

type PlanesOf = Partial<Record<Leaf, Float32Array[]>>;

describe('geometry', () => {
  test('a tube’s v runs evenly from end to end, and it is as long as it says', () => {
    const tube = geometryOf({ primitive: 'tube', radius: 0.1, length: 2 });
    tube.computeBoundingBox();
    expect(tube.boundingBox!.max.y - tube.boundingBox!.min.y).toBeCloseTo(2, 5);
    const position = tube.getAttribute('position');
    const uv = tube.getAttribute('uv');
    for (let k = 0; k < uv.count; k += 37) expect(uv.getY(k)).toBeCloseTo(position.getY(k) / 2 + 0.5, 5);
  });
  test('spheres, boxes and planes have their sizes', () => {
    const size = (source: Parameters<typeof geometryOf>[0]) => {
      const g = geometryOf(source);
      g.computeBoundingBox();
      const { min, max } = g.boundingBox!;
      return [max.x - min.x, max.y - min.y, max.z - min.z].map((v) => Number(v.toFixed(3)));
    };
    expect(size({ primitive: 'sphere', radius: 0.5 })).toEqual([1, 1, 1]);
    expect(size({ primitive: 'box', size: [1, 2, 3] })).toEqual([1, 2, 3]);
    expect(size({ primitive: 'plane', size: [2, 4] })).toEqual([2, 4, 0]);
  });
  test('a room has a floor, a wall when asked, and nothing when it is off', () => {
    const ground = { on: true, wall: true, rgb: [0.2, 0.2, 0.2] as [number, number, number], roughness: 0.7 };
    const shading = new Shading();
    expect(makeRoom(ground, shading).children.length).toBeGreaterThan(10);
    expect(makeRoom({ ...ground, wall: false }, shading).children).toHaveLength(1);
    expect(makeRoom({ ...ground, on: false }, shading).children).toHaveLength(0);
  });
});

describe('spill', () => {
  const ball = (at: [number, number, number] = [1, 2, 3]) => {
    const mesh = new Mesh(new SphereGeometry(0.5, 64, 32), new MeshBasicMaterial());
    mesh.position.set(...at);
    mesh.updateMatrixWorld();
    return mesh;
  };
  const standing = (balls: Record<string, Mesh>) => {
    const spill = new Spill();
    spill.standOn(new Map(Object.entries(balls)));
    return spill;
  };
  const plane = (v: number) => new Float32Array(SPILL_POINTS).fill(v);
  /** All that shines, as flux over pi: radiance times area, a channel at a time. */
  const total = (spill: Spill, lane: 0 | 1 | 2 = 0) =>
    spill.shining.reduce((sum, { emitter, rgb }) => {
      if (emitter.kind !== 'capsule') throw new Error('a ball is no panel');
      const long = Math.hypot(...emitter.to.map((v, k) => v - emitter.from[k]!));
      const ends = 2 * Math.PI * emitter.radius ** 2 * (emitter.ends[0] + emitter.ends[1]);
      return sum + rgb[lane] * (2 * Math.PI * emitter.radius * long + ends);
    }, 0);
  const shine = (spill: Spill, emissions: Record<string, Float32Array[]>, strength = 1) =>
    spill.shine(new Map(Object.entries(emissions).map(([prop, planes]) => [prop, spill.gather(prop, planes)])), strength);

  test('the points lie on the surface, are the same every time, and face outwards', () => {
    const a = standing({ ball: ball() }).placesOf('ball', null) as PlanesOf;
    const b = standing({ ball: ball() }).placesOf('ball', null) as PlanesOf;
    expect(a).toEqual(b);
    let outwards = 0;
    for (let k = 0; k < SPILL_POINTS; k++) {
      const at = [0, 1, 2].map((lane) => a.worldPosition![lane]![k]! - [1, 2, 3][lane]!);
      expect(Math.hypot(...at)).toBeCloseTo(0.5, 1);
      const view = [0, 1, 2].map((lane) => a.view![lane]![k]!);
      const normal = [0, 1, 2].map((lane) => a.normal![lane]![k]!);
      outwards += view.reduce((s, v, lane) => s + v * normal[lane]!, 0);
    }
    // A direction spread by the cosine has a mean cosine of 2/3.
    expect(outwards / SPILL_POINTS).toBeCloseTo(2 / 3, 1);
  });
  test('a ball of radiance L shines as one of its size does, and what is no light does not', () => {
    const spill = standing({ ball: ball() });
    shine(spill, { ball: [plane(8), plane(4), plane(0)] });
    expect(spill.shining).toHaveLength(1);
    expect(total(spill)).toBeCloseTo(8 * Math.PI, 0);
    spill.shining[0]!.rgb.forEach((v, k) => expect(v).toBeCloseTo([8, 4, 0][k]!, 5));
    expect(shareOf(spill.shining[0]!.emitter, [1, 2, 5], [0, 0, -1])).toBeCloseTo(0.25 ** 2, 2);
    shine(spill, { ball: [plane(NaN), plane(-3), plane(0)] });
    expect(spill.shining).toEqual([]);
    shine(spill, { ball: [plane(8), plane(8), plane(8)] }, 0);
    expect(spill.shining).toEqual([]);
  });
  test('sixty-four props shine at once, each by itself, and keep their emitters whichever of them is the strongest', () => {
    const names = Array.from({ length: 64 }, (_, k) => `p${k}`);
    const many = standing(Object.fromEntries(names.map((n, k) => [n, ball([k, 0, 0])])));
    shine(many, Object.fromEntries(names.map((n, k) => [n, [plane(k + 1), plane(0), plane(0)]])));
    expect(many.shining).toHaveLength(64);
    const places = many.shining.map(({ emitter }) => emitter);
    shine(many, Object.fromEntries(names.map((n, k) => [n, [plane(64 - k), plane(0), plane(0)]])));
    expect(many.shining.map(({ emitter }) => emitter)).toEqual(places);
    expect(many.shining.map(({ rgb }) => Math.round(rgb[0]))).toEqual(names.map((_, k) => 64 - k));
  });
  test('a prop that moves takes its light along, and keeps its points', () => {
    const mesh = ball();
    const spill = standing({ ball: mesh });
    const before = (spill.placesOf('ball', null) as PlanesOf).position;
    mesh.position.set(-4, 0, 0);
    spill.standOn(new Map([['ball', mesh]]));
    expect((spill.placesOf('ball', null) as PlanesOf).position).toBe(before);
    shine(spill, { ball: [plane(1), plane(1), plane(1)] });
    const [lit] = spill.shining;
    expect(lit!.own).toEqual([-4, 0, 0]);
    expect(lit!.emitter.kind === 'capsule' && lit!.emitter.from[0]).toBeCloseTo(-4, 1);
  });
});

test('where the surface is moved its light goes along, and its points read the normal that it has there', () => {
  const sheet = new Mesh(new PlaneGeometry(1, 1, 8, 8));
  sheet.updateMatrixWorld();
  const spill = new Spill();
  spill.standOn(new Map([['sheet', sheet]]));
  // z = 2 + x: seen from where it was, a metre to the right is a metre nearer. Its normal is (-1, 0, 1) / sqrt 2.
  const rising = spill.placesOf('sheet', (rest, count) => {
    const x = rest.position![0] as Float32Array;
    const across = (leaf: 'positionDt' | 'positionDb') => rest[leaf]![0] as Float32Array;
    const none = () => new Float32Array(count);
    return {
      offset: [none(), none(), x.map((v) => 2 + v)],
      along: [
        [none(), none(), across('positionDt')],
        [none(), none(), across('positionDb')],
      ],
    };
  }) as PlanesOf;
  for (let k = 0; k < SPILL_POINTS; k++)
    [-Math.SQRT1_2, 0, Math.SQRT1_2].forEach((c, lane) => expect(Math.abs(rising.normal![lane]![k]! - c)).toBeLessThan(1e-5));
  const plane = () => new Float32Array(SPILL_POINTS).fill(1);
  spill.shine(new Map([['sheet', spill.gather('sheet', [plane(), plane(), plane()])]]), 1);
  expect(spill.shining).toHaveLength(1);
  const { emitter } = spill.shining[0]!;
  // It is one panel still, which stands where the sheet is now, and looks as it does.
  if (emitter.kind !== 'panel') throw new Error('a sheet is a panel');
  expect(emitter.centre[2]).toBeCloseTo(2 + emitter.centre[0], 3);
  for (const side of [emitter.across, emitter.up]) expect(side[2]).toBeCloseTo(side[0], 3);
});

test('spill points of a see-through prop know how far the ground lies behind them, each along its own view', () => {
  const ground = new Mesh(new PlaneGeometry(200, 200));
  ground.rotation.x = -Math.PI / 2;
  ground.updateMatrixWorld();
  const ball = new Mesh(new SphereGeometry(0.3, 32, 16));
  ball.position.set(0, 1, 0);
  const spill = new Spill();
  spill.standOn(new Map([['ball', ball]]), [ground]);
  const planes = spill.placesOf('ball', null) as PlanesOf;
  let counted = 0;
  for (let k = 0; k < SPILL_POINTS; k++) {
    const at = (leaf: Leaf, lane: number) => planes[leaf]![lane]![k]!;
    const height = at('worldPosition', 1);
    // It looks along what is opposite to its view: down, where the eye is above.
    const rise = at('view', 1);
    if (rise < 0.1) {
      if (rise < 0) expect(at('depthGap', 0)).toBeCloseTo(50, 3);
      continue;
    }
    counted++;
    expect(at('depthGap', 0)).toBeCloseTo(height / rise, 4);
    // From this point's own height, whatever the origin of what it is on.
    expect(at('depthGapDown', 0)).toBeCloseTo(height, 4);
    expect(at('behindPosition', 1)).toBeCloseTo(0, 4);
  }
  expect(counted).toBeGreaterThan(60);
  // What is opaque itself has nothing behind it that it could read.
  spill.standOn(new Map([['ball', ball]]), [ground, ball]);
  expect((spill.placesOf('ball', null) as PlanesOf).depthGap).toBeUndefined();
});

describe('what an effect wants of a mesh', () => {
  test('edges take corners of their own, slopes do not; both are made once', () => {
    const base = geometryOf({ primitive: 'box', size: [1, 1, 1] });
    const slopes = fitted(base, ['uvDt', 'uvDb']);
    expect(slopes).toBe(base);
    expect(base.getAttribute('uvDt').count).toBe(base.getAttribute('position').count);
    const edges = fitted(base, ['edge', 'uvDt']);
    expect(edges.getIndex()).toBeNull();
    expect(edges.getAttribute('edge').count).toBe(base.getIndex()!.count);
    expect(edges.hasAttribute('uvDt')).toBe(true);
    expect(fitted(base, ['edgeQuad'])).toBe(edges);
  });
  test('points of a surface know how far its wires are: a box of 1 m has cells of 12.5 cm, and light is thrown from their lines', () => {
    const box = fitted(geometryOf({ primitive: 'box', size: [1, 1, 1] }), ['edge']);
    // Where a cell's middle is, 3 cm from a wire, and on one; none is on a diagonal.
    const places = [0.0625, 0.03, 0].map((x) => ({ position: [x, 0.0625, 0.5] }));
    const { edges } = pointsOn(box, places);
    expect([...edges![1]!].map((m) => Number(m.toFixed(4)))).toEqual([0.0625, 0.03, 0]);
    expect(edges![0]![0]).toBeLessThan(0.001);
    const spill = new Spill();
    spill.standOn(new Map([['box', new Mesh(box)]]));
    const { edgePixelsQuad } = spill.placesOf('box', null) as Partial<Record<Leaf, Float32Array[]>>;
    // Lines of 1 cm, 8 cells to a metre: a share of 1 - (1 - 0.08)^2 of the surface (geometry).
    const pixel = (2 * Math.tan(Math.PI / 8)) / 600;
    const share = edgePixelsQuad![0]!.filter((p) => p * pixel < 0.005).length / SPILL_POINTS;
    expect(Math.abs(share - 0.1536)).toBeLessThan(0.06);
  });
  test('a large mesh has a reduced copy of the same vertices, by which rays are found', async () => {
    const grid = new SphereGeometry(1, 520, 260);
    const position = new Float32Array(grid.getAttribute('position').array);
    const index = new Uint32Array(grid.getIndex()!.array);
    const fewer = (await reduced(position, index))!;
    expect(fewer.length).toBeLessThan(index.length / 3);
    const normal = new Float32Array(grid.getAttribute('normal').array);
    const uv = new Float32Array(grid.getAttribute('uv').array);
    const about = { vertices: position.length / 3, triangles: index.length / 3, low: [-1, -1, -1], high: [1, 1, 1] } as const;
    const whole = geometryFromMesh({
      ...{ position, normal, uv, uv1: null, colour: null, index, reduced: fewer, parts: [], images: [] },
      about: { ...about, hadNormals: true, hadUv: true },
    });
    const copy = reducedOf(whole)!;
    expect(copy.getAttribute('position')).toBe(whole.getAttribute('position'));
    const mesh = new Mesh(whole);
    const hit = firstBehind([mesh], new Vector3(0.2, 0.1, 5), new Vector3(0, 0, -1))!;
    expect(hit.length()).toBeCloseTo(1, 1);
    expect(await reduced(position, index.slice(0, 300))).toBeNull();
  });
});

test('the samples of a still are spread over pixel and light, evenly', () => {
  const jitters = Array.from({ length: STILL_SAMPLES }, (_, k) => jitterOf(k));
  expect(jitters[0]).toEqual([0, 0]);
  for (const axis of [0, 1]) expect(Math.abs(jitters.reduce((s, j) => s + j[axis]!, 0) / STILL_SAMPLES)).toBeLessThan(0.02);
  for (const j of jitters) expect(Math.max(...j.map(Math.abs))).toBeLessThanOrEqual(0.5);
  // One in each quarter of the pixel of every four, about.
  const quarters = [0, 0, 0, 0];
  for (const [x, y] of jitters) quarters[(x >= 0 ? 1 : 0) + (y >= 0 ? 2 : 0)]!++;
  for (const n of quarters) expect(Math.abs(n - 16)).toBeLessThanOrEqual(3);
  const inside = Array.from({ length: STILL_SAMPLES }, (_, k) => Math.hypot(...lightPlaceOf(k)));
  expect(Math.max(...inside)).toBeLessThanOrEqual(1);
  // Half of a disc lies within 0.707 of its radius.
  expect(inside.filter((r) => r < Math.SQRT1_2).length / STILL_SAMPLES).toBeCloseTo(0.5, 1);
});

describe('materials', () => {
  const strands: Strand[] = [
    { id: 'n', name: 'N', op: 'noise' },
    { id: 'o', name: 'O', op: 'normal', options: { space: 'object' } },
    { id: 'm', name: 'M', op: 'multiply', inputs: { a: { from: 'o' }, b: { from: 'n' } } },
  ];
  const outputs = {
    emission: { from: 'n' },
    roughness: { from: 'n' },
    baseColour: { from: 'm' },
    normal: { from: 'm' },
    reflectance: { value: 0.1 },
    occlusion: { value: 0.5 },
    metalness: { value: 1 },
    displacement: { from: 'm' },
  };
  const effect = effectOf(strands, outputs);
  const state = new ProgramState();
  const text = (): GlslText => emitGlsl(lower(effect, { build: 'live' }), { hoist: true, naming: 'ids' });

  test('every hook that the lit material uses is in three’s shader, and each output has its place', () => {
    const material = effectMaterial(text(), effect.finish, state);
    const { vertexShader, fragmentShader } = ShaderLib.standard;
    const shader = { vertexShader, fragmentShader, uniforms: {} } as unknown as WebGLProgramParametersWithUniforms;
    material.onBeforeCompile(shader, undefined as never);
    for (const words of [
      'totalEmissiveRadiance = clamp(s.emission',
      'roughnessFactor = clamp(s.roughness',
      'metalnessFactor = clamp(s.metalness',
      'material.specularColor = vec3(clamp(s.reflectance',
      'reflectedLight.indirectDiffuse *= clamp(s.occlusion',
      'normal = normalize((viewMatrix * vec4(s.normal',
    ])
      expect(shader.fragmentShader).toContain(words);
    expect(shader.fragmentShader).toContain('notFiniteMark');
    expect(shader.vertexShader).toContain('displacement(');
    expect(shader.vertexShader).toContain('vec3 transformed = movedPosition;');
  });
  test('the finish decides sides, depth and which shader', () => {
    const unlit = effectMaterial(text(), { ...effect.finish, lighting: 'unlit', sides: 'both', writesDepth: false }, state);
    expect(unlit).toMatchObject({ type: 'RawShaderMaterial', side: 2, depthWrite: false });
    expect(effectMaterial(text(), { ...effect.finish, sides: 'back' }, state)).toMatchObject({
      type: 'MeshStandardMaterial',
      side: 1,
    });
  });
  test('a program’s key follows its text and finish, and nothing else', () => {
    const key = programKey(text(), effect.finish);
    expect(programKey(text(), { ...effect.finish, castsShadow: false, order: 3 })).toBe(key);
    expect(programKey(text(), { ...effect.finish, lighting: 'unlit' })).not.toBe(key);
    const other = effectOf([...strands.slice(0, 2), { ...strands[2]!, op: 'add' }], outputs);
    expect(programKey(emitGlsl(lower(other, { build: 'live' }), { hoist: true, naming: 'ids' }), effect.finish)).not.toBe(key);
  });
});
