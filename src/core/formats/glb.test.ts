import validator from 'gltf-validator';
import fc from 'fast-check';
import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  Color,
  Group,
  Mesh,
  MeshStandardMaterial,
  TorusKnotGeometry,
  Vector3,
  type Object3D,
} from 'three';
import { GLTFExporter } from 'three/examples/jsm/exporters/GLTFExporter.js';
import { MAX_MESH_BYTES, MeshRefused, checkGlb, readGlb } from './glb.js';

/** What the exporter needs of a browser. */
class Reader {
  result: ArrayBuffer | null = null;
  onloadend: (() => void) | null = null;
  readAsArrayBuffer(blob: Blob) {
    void blob.arrayBuffer().then((bytes) => {
      this.result = bytes;
      this.onloadend?.();
    });
  }
}
beforeAll(() => void Object.assign(globalThis, { FileReader: Reader }));
afterAll(() => void Reflect.deleteProperty(globalThis, 'FileReader'));

/** A .glb made by another library: three.js's exporter. */
async function exported(scene: Object3D): Promise<Uint8Array> {
  const bytes = new Uint8Array((await new GLTFExporter().parseAsync(scene, { binary: true, onlyVisible: false })) as ArrayBuffer);
  const report = await validator.validateBytes(bytes);
  // The Khronos validator is the judge of what goes in, so that what is refused below is refused for its own fault.
  expect(report.issues.numErrors).toBe(0);
  return bytes;
}

const refusal = async (bytes: Uint8Array): Promise<string> => {
  try {
    await readGlb(bytes);
    return 'it was read';
  } catch (error) {
    if (!(error instanceof MeshRefused)) throw error;
    return error.message;
  }
};

/** A .glb from a description and data, as Khronos glTF 2.0, section 4, lays it out. */
function glb(json: unknown, bin = new Uint8Array(0)): Uint8Array {
  const text = new TextEncoder().encode(typeof json === 'string' ? json : JSON.stringify(json));
  const padded = Math.ceil(text.length / 4) * 4;
  const bytes = new Uint8Array(20 + padded + 8 + bin.length).fill(0x20);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, 0x46546c67, true);
  view.setUint32(4, 2, true);
  view.setUint32(8, bytes.length, true);
  view.setUint32(12, padded, true);
  view.setUint32(16, 0x4e4f534a, true);
  bytes.set(text, 20);
  view.setUint32(20 + padded, bin.length, true);
  view.setUint32(24 + padded, 0x004e4942, true);
  bytes.set(bin, 28 + padded);
  return bytes;
}

const TRIANGLE = new Uint8Array(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer);
const describe3 = (more: object = {}) => ({
  asset: { version: '2.0' },
  scene: 0,
  scenes: [{ nodes: [0] }],
  nodes: [{ mesh: 0 }],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  buffers: [{ byteLength: TRIANGLE.length }],
  bufferViews: [{ buffer: 0, byteLength: TRIANGLE.length }],
  accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
  ...more,
});

test.each([
  // Khronos glTF 2.0, 3.7.2.1: strips p_i = {v_i, v_(i + (1 + i % 2)), v_(i + (2 - i % 2))}; fans {v_(i + 1), v_(i + 2), v_0}.
  ['a strip', 5, [0, 1, 2, 1, 3, 2, 2, 3, 4]],
  ['a fan', 6, [0, 1, 2, 0, 2, 3, 0, 3, 4]],
  ['a list, whose last two corners make no triangle', 4, [0, 1, 2]],
])('%s of five corners', async (_, mode, corners) => {
  const data = new Uint8Array(new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 2, 0]).buffer);
  const { index } = await readGlb(
    glb(
      describe3({
        meshes: [{ primitives: [{ mode, attributes: { POSITION: 0 } }] }],
        buffers: [{ byteLength: data.length }],
        bufferViews: [{ buffer: 0, byteLength: data.length }],
        accessors: [{ bufferView: 0, componentType: 5126, count: 5, type: 'VEC3', min: [0, 0, 0], max: [1, 2, 0] }],
      }),
      data,
    ),
  );
  // Which corner comes first does not matter, their turn does.
  const turns = (list: readonly number[]) =>
    Array.from({ length: list.length / 3 }, (_, t) => {
      const [a, b, c] = list.slice(t * 3, t * 3 + 3);
      return [
        [a, b, c],
        [b, c, a],
        [c, a, b],
      ]
        .map((w) => w.join())
        .sort()[0];
    });
  expect(turns([...index])).toEqual(turns(corners));
});

describe('a mesh of another library', () => {
  test('has the triangles, places, normals and uv that went in, with v turned up', async () => {
    const knot = new TorusKnotGeometry(0.5, 0.15, 64, 8);
    const mesh = await readGlb(await exported(new Mesh(knot, new MeshStandardMaterial())));
    expect(mesh.about).toMatchObject({
      vertices: knot.getAttribute('position').count,
      triangles: knot.getIndex()!.count / 3,
      hadNormals: true,
      hadUv: true,
    });
    knot.computeBoundingBox();
    mesh.about.low.forEach((v, k) => expect(v).toBeCloseTo(knot.boundingBox!.min.getComponent(k), 5));
    for (let k = 0; k < knot.getAttribute('position').count; k += 13) {
      for (const lane of [0, 1, 2]) {
        expect(mesh.position[k * 3 + lane]).toBeCloseTo(knot.getAttribute('position').getComponent(k, lane), 5);
        expect(mesh.normal[k * 3 + lane]).toBeCloseTo(knot.getAttribute('normal').getComponent(k, lane), 5);
      }
      // The exporter writes v as three.js has it; glTF's v goes down, ours up.
      expect(mesh.uv[k * 2 + 1]).toBeCloseTo(1 - knot.getAttribute('uv').getY(k), 5);
    }
  });
  test.each([
    [0.3, 0.7, -0.2, -1],
    [1.9, -1.2, 2.4, -1],
    [-2.6, 1.1, 0.9, 1],
    [0.8, 2.9, -1.7, 1],
    [3.0, -0.4, 1.4, -1],
  ])(
    'stands as its nodes say, turned by %f %f %f, scaled unevenly and by %f; its triangles face outwards',
    async (x, y, z, sign) => {
      const group = new Group();
      group.position.set(1, 2, 3);
      group.rotation.set(x, y, z);
      const box = new Mesh(new BoxGeometry(1, 1, 1), new MeshStandardMaterial());
      box.scale.set(2, 0.5, sign);
      group.add(box);
      group.updateMatrixWorld(true);
      const { position, normal, index, about } = await readGlb(await exported(group));
      expect(about.triangles).toBe(12);
      const at = (k: number) => new Vector3(position[k * 3], position[k * 3 + 1], position[k * 3 + 2]);
      const centre = new Vector3(1, 2, 3);
      for (let t = 0; t < index.length; t += 3) {
        const [a, b, c] = [at(index[t]!), at(index[t + 1]!), at(index[t + 2]!)];
        const facing = b.clone().sub(a).cross(c.clone().sub(a)).normalize();
        const n = new Vector3(...normal.subarray(index[t]! * 3, index[t]! * 3 + 3));
        expect(facing.dot(n)).toBeCloseTo(1, 4);
        expect(facing.dot(a.clone().sub(centre))).toBeGreaterThan(0);
      }
    },
  );
  test('keeps painted colours; smooth normals and uv of 0 stand in for what is missing', async () => {
    const bare = new BufferGeometry();
    bare.setAttribute('position', new BufferAttribute(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), 3));
    bare.setAttribute('color', new BufferAttribute(new Float32Array([1, 0, 0, 0, 1, 0, 0, 0, 1]), 3));
    const mesh = await readGlb(await exported(new Mesh(bare, new MeshStandardMaterial({ color: new Color(1, 1, 1) }))));
    expect(mesh.about).toMatchObject({ triangles: 1, hadNormals: false, hadUv: false });
    expect([...mesh.normal]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1]);
    expect([...mesh.colour!]).toEqual([1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1]);
  });
});

describe('refused with a sentence', () => {
  test('a made triangle is read, so that each change below is what is refused', async () => {
    expect((await readGlb(glb(describe3(), TRIANGLE))).about.triangles).toBe(1);
  });
  test.each([
    ['an outside buffer', { buffers: [{ byteLength: 36, uri: '../../secret.bin' }] }, /refers to another file/],
    ['an outside picture', { images: [{ uri: 'http://example.test/x.png' }] }, /refers to another file/],
    ['data as text', { buffers: [{ byteLength: 36, uri: 'data:application/octet-stream;base64,AAAA' }] }, /carries data as text/],
    ['compression', { extensionsRequired: ['KHR_draco_mesh_compression'] }, /KHR_draco_mesh_compression/],
    ['data beyond its end', { bufferViews: [{ buffer: 0, byteOffset: 8, byteLength: 36 }] }, /beyond its end/],
    ['more data than there is', { buffers: [{ byteLength: 1e9 }] }, /describes 1000000000 bytes/],
    [
      'a list longer than its data',
      { accessors: [{ bufferView: 0, componentType: 5126, count: 4, type: 'VEC3' }] },
      /longer than its data/,
    ],
    ['a huge list of nothing', { accessors: [{ componentType: 5126, count: 4e9, type: 'VEC3' }] }, /more than are read/],
    [
      'a count that is none',
      { accessors: [{ bufferView: 0, componentType: 5126, count: -3, type: 'VEC3' }] },
      /not a whole number/,
    ],
    [
      'numbers of no kind',
      { accessors: [{ bufferView: 0, componentType: 9, count: 3, type: 'VEC3' }] },
      /kind that glTF does not have/,
    ],
    ['a node that is its own ancestor', { nodes: [{ mesh: 0, children: [1] }, { children: [0] }] }, /own ancestor/],
    ['a node with two parents', { nodes: [{ children: [2] }, { children: [2] }, { mesh: 0 }] }, /two parents/],
    ['too many nodes', { nodes: Array.from({ length: 10_001 }, () => ({ mesh: 0 })) }, /10001 nodes/],
    ['nodes that are no list', { nodes: { length: 3 } }, /"nodes" is not a list/],
    ['no triangles', { meshes: [{ primitives: [{ attributes: { POSITION: 0 }, mode: 0 }] }] }, /no triangles/],
  ])('%s', async (_, change, words) => {
    expect(await refusal(glb(describe3(change), TRIANGLE))).toMatch(words);
  });
  test('corners that are no numbers, or out of reach, or not there', async () => {
    for (const far of [NaN, Infinity, 1e9]) {
      const bin = new Uint8Array(new Float32Array([0, 0, 0, far, 0, 0, 0, 1, 0]).buffer);
      expect(await refusal(glb(describe3(), bin))).toMatch(/not a number, or farther/);
    }
    const bin = new Uint8Array(42);
    bin.set(TRIANGLE);
    new DataView(bin.buffer).setUint16(38, 7, true);
    const indexed = describe3({
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
      buffers: [{ byteLength: 42 }],
      bufferViews: [
        { buffer: 0, byteLength: 36 },
        { buffer: 0, byteOffset: 36, byteLength: 6 },
      ],
      accessors: [...describe3().accessors, { bufferView: 1, componentType: 5123, count: 3, type: 'SCALAR' }],
    });
    expect(await refusal(glb(indexed, bin))).toMatch(/a corner that is not there/);
  });
  test('what is no .glb, of another version, or cut off', async () => {
    const good = glb(describe3(), TRIANGLE);
    expect(await refusal(new TextEncoder().encode('{"asset":{"version":"2.0"}}      '))).toMatch(/first letters/);
    expect(await refusal(new Uint8Array(4))).toMatch(/too short/);
    expect(await refusal(good.subarray(0, good.length - 1))).toMatch(/cut off/);
    const old = good.slice();
    old[4] = 1;
    expect(await refusal(old)).toMatch(/version 1/);
    expect(await refusal(glb('{"asset":'))).toMatch(/not JSON/);
    expect(() => checkGlb(new Uint8Array(MAX_MESH_BYTES + 1))).toThrow(/at most 64 MB/);
  });
  test('bytes changed at random are read or refused, and nothing else', async () => {
    const good = glb(describe3(), TRIANGLE);
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        async (changes) => {
          const bytes = good.slice();
          for (const [at, value] of changes) bytes[at] = value;
          expect(await refusal(bytes)).toMatch(/^it was read$|\.$/);
        },
      ),
      { seed: 11, numRuns: 300 },
    );
  });
});

test('normals that are no direction are made smooth, the others stay; progress is told', async () => {
  const box = new BoxGeometry(1, 1, 1, 300, 300, 1);
  const normal = box.getAttribute('normal');
  const bytes = await exported(new Mesh(box, new MeshStandardMaterial()));
  // The exporter would mend them itself: they are spoilt in its file. The first four vertices are of the +x side.
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const start = 20 + view.getUint32(12, true) + 8;
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + view.getUint32(12, true)))) as {
    meshes: { primitives: { attributes: { NORMAL: number } }[] }[];
    accessors: { bufferView: number; byteOffset?: number }[];
    bufferViews: { byteOffset?: number }[];
  };
  const accessor = json.accessors[json.meshes[0]!.primitives[0]!.attributes.NORMAL]!;
  const at = start + (json.bufferViews[accessor.bufferView]!.byteOffset ?? 0) + (accessor.byteOffset ?? 0);
  for (let k = 0; k < 3; k++) {
    view.setFloat32(at + k * 4, NaN, true);
    view.setFloat32(at + 12 + k * 4, 0, true);
  }
  const shares: number[] = [];
  const mesh = await readGlb(bytes, (share, triangles) => {
    shares.push(share);
    expect(triangles).toBe(box.getIndex()!.count / 3);
  });
  expect([...mesh.normal.slice(0, 9)].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([1, 0, 0, 1, 0, 0, 1, 0, 0]);
  expect([normal.getX(2), normal.getY(2)]).toEqual([1, 0]);
  expect(shares.length).toBeGreaterThan(3);
  expect(shares.every((s, k) => s > 0 && s <= 1 && (k === 0 || s > shares[k - 1]!))).toBe(true);
  // 360,000 triangles are too many to turn about.
  expect(mesh.reduced!.length).toBeLessThan(mesh.index.length / 2);
});

test('parts are told apart by what they are made of, with the pictures that they look up, each once', async () => {
  const made = (name: string, more: object) => Object.assign(new MeshStandardMaterial(more), { name });
  const [steel, lamp] = [
    made('steel', { color: new Color(0.2, 0.3, 0.4), roughness: 0.35, metalness: 0.8 }),
    made('lamp', { color: new Color(0, 0, 0), emissive: new Color(1, 0.5, 0.25), side: 2 }),
  ];
  const scene = new Group();
  for (const [k, material] of [steel, lamp, steel].entries()) {
    const mesh = new Mesh(new BoxGeometry(1, 1, 1), material);
    mesh.position.x = 2 * k;
    scene.add(mesh);
  }
  const bytes = await exported(scene);
  const { parts, index, images } = await readGlb(bytes, undefined, () => Promise.resolve(null));
  // Two boxes of steel lie together.
  expect(parts.map(({ start, count, surface }) => [surface.name, start, count])).toEqual([
    ['steel', 0, 72],
    ['lamp', 72, 36],
  ]);
  expect(index).toHaveLength(108);
  const [first, second] = parts.map((p) => p.surface);
  expect(first!.rgb.map((v) => Number(v.toFixed(4)))).toEqual([0.2, 0.3, 0.4]);
  expect([first!.roughness, first!.metalness, first!.bothSides]).toEqual([0.35, 0.8, false]);
  expect([second!.emission, second!.bothSides]).toEqual([[1, 0.5, 0.25], true]);
  expect([first!.base, first!.normal, first!.rough, images]).toEqual([null, null, null, []]);
  // What is made of nothing that is named has no parts: it stays grey.
  expect((await readGlb(glb(describe3(), TRIANGLE))).parts).toEqual([]);
});
