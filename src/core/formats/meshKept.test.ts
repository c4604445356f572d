/** What a mesh file is before and after it is read, painted and cut finer: area, colours, bounds, and all that nobody here knows. */
import { Document, WebIO } from '@gltf-transform/core';
import validator from 'gltf-validator';
import { BufferAttribute, IcosahedronGeometry, Mesh } from 'three';
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js';
import { readGlb } from './glb.js';
import { finerGlb } from './glbFiner.js';
import { withPaint } from './glbPaint.js';
import { toGlb } from './meshFiles.js';

globalThis.requestAnimationFrame = () => 0;
const bytesOf = (text: string) => new TextEncoder().encode(text) as Uint8Array<ArrayBuffer>;
const mesh = async (name: string, content: string | Uint8Array<ArrayBuffer>) => {
  const bytes = await toGlb({ name, bytes: typeof content === 'string' ? bytesOf(content) : content });
  expect((await validator.validateBytes(bytes)).issues).toMatchObject({ numErrors: 0, numWarnings: 0 });
  return readGlb(bytes);
};
type Read = Awaited<ReturnType<typeof readGlb>>;
function areaOf({ index, position }: Pick<Read, 'index' | 'position'>): number {
  let area = 0;
  for (let k = 0; k < index.length; k += 3) {
    const [a, b, c] = [0, 1, 2].map((j) => [0, 1, 2].map((l) => position[index[k + j]! * 3 + l]!)) as [
      number[],
      number[],
      number[],
    ];
    const [u, v] = [b, c].map((p) => p.map((x, l) => x - a[l]!)) as [number[], number[]];
    area += Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!) / 2;
  }
  return area;
}
const ply = (properties: string, rows: string[], faces: string[]) =>
  `ply\nformat ascii 1.0\ncomment by hand\nelement vertex ${rows.length}\nproperty float x\nproperty float y\nproperty float z\n${properties}element face ${faces.length}\nproperty list uchar int vertex_indices\nend_header\n${rows.join('\n')}\n${faces.join('\n')}\n`;

/** Polygons in the plane x = 1, wound to face along x; areas by the shoelace formula. */
const POLYGONS: [string, [number, number][]][] = [
  [
    'five corners',
    [
      [0, 0],
      [2, 0],
      [3, 1.5],
      [1, 3],
      [-1, 1.5],
    ],
  ],
  ['eleven corners', Array.from({ length: 11 }, (_, k) => [Math.cos((k / 11) * 2 * Math.PI), Math.sin((k / 11) * 2 * Math.PI)])],
  [
    'an arrow, hollowed',
    [
      [0, 0],
      [2, 2],
      [0, 1],
      [-2, 2],
    ],
  ],
  [
    'a letter L',
    [
      [0, 0],
      [3, 0],
      [3, 1],
      [1, 1],
      [1, 3],
      [0, 3],
    ],
  ],
  [
    'a comb',
    [
      [0, 0],
      [5, 0],
      [5, 3],
      [4, 3],
      [4, 1],
      [3, 1],
      [3, 3],
      [2, 3],
      [2, 1],
      [1, 1],
      [1, 3],
      [0, 3],
    ],
  ],
];
describe.each(POLYGONS)('a face of %s', (_, corners) => {
  const wanted = corners.reduce((sum, [x, y], k) => {
    const [nx, ny] = corners[(k + 1) % corners.length]!;
    return sum + (x * ny - nx * y) / 2;
  }, 0);
  const ids = corners.map((__, k) => k);
  test.each<[string, string]>([
    [
      'ply',
      ply(
        '',
        corners.map(([y, z]) => `1 ${y} ${z}`),
        [`${corners.length} ${ids.join(' ')}`],
      ),
    ],
    ['obj', `${corners.map(([y, z]) => `v 1 ${y} ${z}`).join('\n')}\nf ${ids.map((k) => k + 1).join(' ')}\n`],
    ['obj', `${corners.map(([y, z]) => `v 1 ${y} ${z}`).join('\n')}\nf ${ids.map((k) => k - corners.length).join(' ')}\n`],
  ])('in .%s covers what it covers, faces where it faces, once', async (ending, text) => {
    const read = await mesh(`face.${ending}`, text);
    expect(read.index.length / 3).toBe(corners.length - 2);
    expect(areaOf(read)).toBeCloseTo(wanted, 5);
    for (let k = 0; k < read.index.length; k += 3) {
      const [a, b, c] = [0, 1, 2].map((j) => [1, 2].map((l) => read.position[read.index[k + j]! * 3 + l]!)) as [
        number[],
        number[],
        number[],
      ];
      expect((b[0]! - a[0]!) * (c[1]! - a[1]!) - (b[1]! - a[1]!) * (c[0]! - a[0]!)).toBeGreaterThan(0);
    }
    expect([read.about.low, read.about.high]).toEqual(
      [Math.min, Math.max].map((end) => [1, ...[0, 1].map((l) => Math.fround(end(...corners.map((p) => p[l]!))))]),
    );
  });
});

describe('colours of PLY', () => {
  const places = ['0 0 0', '1 0 0', '0 1 0'];
  test.each([
    ['uchar', 255, ['0 64 128 191', '255 1 2 3', '10 20 30 40']],
    ['ushort', 65535, ['0 16384 32768 50000', '65535 1 2 3', '1000 2000 3000 4000']],
    ['float', 1, ['0 0.25 0.5 0.75', '1 0.1 0.2 0.3', '0 0 0 1']],
  ] as const)('%s, with alpha', async (type, most, colours) => {
    const properties = ['red', 'green', 'blue', 'alpha'].map((c) => `property ${type} ${c}\n`).join('');
    const read = await mesh(
      'c.ply',
      ply(
        properties,
        places.map((p, k) => `${p} ${colours[k]!}`),
        ['3 0 1 2'],
      ),
    );
    const wanted = colours.flatMap((row) => row.split(' ').map((v) => Number(v) / most));
    wanted.forEach((v, k) => expect(read.colour![k]).toBeCloseTo(v, 4));
  });
  test('binary of both orders of bytes, as another library writes it', async () => {
    const ball = new IcosahedronGeometry(1, 3);
    const count = ball.getAttribute('position').count;
    ball.setAttribute(
      'color',
      new BufferAttribute(
        Float32Array.from({ length: count * 3 }, (_, k) => (k % 64) / 63),
        3,
      ),
    );
    ball.setIndex(Array.from({ length: count }, (_, k) => k));
    const histogram = (values: ArrayLike<number>) => {
      const bins = new Array<number>(8).fill(0);
      for (let k = 0; k < values.length; k++)
        if (values.length % 4 !== 0 || k % 4 < 3) bins[Math.min(7, Math.floor(values[k]! * 8))]!++;
      return bins;
    };
    const found = [];
    for (const littleEndian of [true, false]) {
      const binary = new PLYExporter().parse(new Mesh(ball), () => undefined, {
        binary: true,
        littleEndian,
      }) as unknown as ArrayBuffer;
      const read = await mesh('ball.ply', new Uint8Array(binary));
      expect(areaOf(read)).toBeCloseTo(
        areaOf({ index: ball.getIndex()!.array as never, position: ball.getAttribute('position').array as never }),
        3,
      );
      expect(read.about.vertices).toBe(count);
      found.push(histogram(read.colour!));
    }
    expect(found[0]).toEqual(found[1]);
    // None of them is only 0 or 1.
    expect(found[0]!.filter((n) => n > 0).length).toBe(8);
  });
  test('of a file that is cut off, or says that it has more than it holds, a sentence', async () => {
    const whole = ply('', places, ['3 0 1 2']);
    await expect(mesh('c.ply', whole.slice(0, -4))).rejects.toThrow(/ends too early/);
    await expect(mesh('c.ply', whole.replace('vertex 3', 'vertex 900000000'))).rejects.toThrow(/more than it holds/);
    await expect(mesh('c.ply', whole.replace('property float x', 'property quad x'))).rejects.toThrow(/type "quad"/);
  });
});

/** A file with what nobody here knows: extensions, extras, an animation of a shape to blend with, a camera, another scene. */
async function stranger(): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  const buffer = document.createBuffer();
  const of = (type: 'VEC3' | 'SCALAR' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const target = document
    .createPrimitiveTarget()
    .setAttribute('POSITION', of('VEC3', Float32Array.of(0, 0, 1, 0, 0, 0, 0, 0, 2)));
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', of('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0)))
    .setAttribute('COLOR_0', of('VEC4', Float32Array.of(0, 0, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1)))
    .setIndices(of('SCALAR', Uint16Array.of(0, 1, 2)))
    .setMaterial(document.createMaterial('Glass').setExtras({ grade: 7 }))
    .addTarget(target);
  const pane = document.createMesh('Pane').addPrimitive(primitive).setWeights([0.5]);
  const node = document
    .createNode('Pane')
    .setMesh(pane)
    .setExtras({ kept: [1, 2] });
  document
    .createScene('Seen')
    .addChild(node)
    .addChild(document.createNode('Eye').setCamera(document.createCamera('Eye').setType('perspective').setYFov(1).setZNear(0.1)));
  document.createScene('Other').addChild(document.createNode('Elsewhere').setMesh(pane));
  const sampler = document
    .createAnimationSampler()
    .setInput(of('SCALAR', Float32Array.of(0, 1)))
    .setOutput(of('SCALAR', Float32Array.of(0, 1)));
  const channel = document.createAnimationChannel().setTargetNode(node).setTargetPath('weights').setSampler(sampler);
  document.createAnimation('Bend').addSampler(sampler).addChannel(channel);
  const bytes = await new WebIO().writeBinary(document);
  // Extensions that the library which wrote it does not know either.
  return edited(bytes, (json) => {
    json.extensionsUsed = ['EXT_of_nobody'];
    json.extensions = { EXT_of_nobody: { deep: [{ value: 1 }] } };
    (json.materials as { extensions?: object }[])[0]!.extensions = { EXT_of_nobody: { shine: 0.4 } };
  });
}
type Json = Record<string, unknown>;
const jsonIn = (bytes: Uint8Array): Json => {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
  return JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as Json;
};
function edited(bytes: Uint8Array, change: (json: Json) => void): Uint8Array<ArrayBuffer> {
  const json = jsonIn(bytes);
  change(json);
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
  const text = JSON.stringify(json);
  const head = new TextEncoder().encode(text.padEnd((text.length + 3) & ~3));
  const rest = bytes.subarray(20 + length);
  const whole = new Uint8Array(20 + head.length + rest.length);
  whole.set(bytes.subarray(0, 20));
  whole.set(head, 20);
  whole.set(rest, 20 + head.length);
  const view = new DataView(whole.buffer);
  view.setUint32(8, whole.length, true);
  view.setUint32(12, head.length, true);
  return whole;
}

describe('what a reader does not know goes through untouched', () => {
  const OWN = ['accessors', 'bufferViews', 'buffers', 'meshes'];
  test.each<[string, (bytes: Uint8Array<ArrayBuffer>) => Promise<Uint8Array<ArrayBuffer>>]>([
    [
      'painted',
      (bytes) =>
        withPaint(
          bytes,
          Float32Array.from({ length: 12 }, (_, k) => k / 11),
        ),
    ],
    ['cut finer', finerGlb],
    ['cut finer and painted', async (bytes) => withPaint(await finerGlb(bytes), new Float32Array(24).fill(0.5))],
    ['painted twice', async (bytes) => withPaint(await withPaint(bytes, new Float32Array(12)), new Float32Array(12).fill(0.25))],
  ])('%s', async (what, change) => {
    const before = await stranger();
    const after = await change(before);
    const { issues } = await validator.validateBytes(after);
    expect(issues).toMatchObject({ numErrors: 0, numWarnings: (await validator.validateBytes(before)).issues.numWarnings });
    // No list of numbers is left over.
    expect(issues.messages.filter((m: { code: string }) => m.code === 'UNUSED_OBJECT')).toEqual([]);
    const [was, is] = [jsonIn(before), jsonIn(after)];
    for (const key of Object.keys(was).filter((k) => !OWN.includes(k))) expect([key, is[key]]).toEqual([key, was[key]]);
    const [{ weights, primitives }] = is.meshes as [{ weights: number[]; primitives: { targets: object[] }[] }];
    expect([weights, primitives[0]!.targets.length]).toEqual([[0.5], 1]);
    // Another library reads it: the shape to blend with is as wide as the mesh, and the animation is there.
    const root = (await new WebIO().readBinary(after)).getRoot();
    const [primitive] = root.listMeshes()[0]!.listPrimitives();
    const vertices = primitive!.getAttribute('POSITION')!.getCount();
    expect(vertices).toBe(what.startsWith('cut') ? 6 : 3);
    expect(primitive!.listTargets()[0]!.getAttribute('POSITION')!.getCount()).toBe(vertices);
    expect([root.listAnimations().length, root.listScenes().length, root.listCameras().length]).toEqual([1, 2, 1]);
    expect(areaOf(await readGlb(after))).toBeCloseTo(0.5, 6);
  });
});

test('numbers that are said sparsely are read; of such that lie beyond their data a sentence', async () => {
  const document = new Document();
  const buffer = document.createBuffer();
  const position = document
    .createAccessor()
    .setType('VEC3')
    .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
    .setBuffer(buffer);
  const paint = document
    .createAccessor()
    .setType('VEC4')
    .setBuffer(buffer)
    .setArray(Float32Array.of(0, 0, 0, 0, 0, 0, 0, 0, 0, 0.5, 0, 1))
    .setSparse(true);
  const primitive = document.createPrimitive().setAttribute('POSITION', position).setAttribute('COLOR_0', paint);
  document.createScene().addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)));
  const bytes = await new WebIO().writeBinary(document);
  const sparse = (json: Json) =>
    (json.accessors as { sparse?: { count: number; values: { byteOffset: number } } }[]).find((a) => a.sparse)!.sparse!;
  expect(sparse(jsonIn(bytes)).count).toBe(1);
  expect([...(await readGlb(bytes)).colour!.slice(8)]).toEqual([0, 0.5, 0, 1]);
  for (const change of [(j: Json) => void (sparse(j).count = 4), (j: Json) => void (sparse(j).values.byteOffset = 9000)])
    await expect(readGlb(edited(bytes, change))).rejects.toThrow(/sparse/);
});

test('a .gltf that is refused says why in words of this application', async () => {
  const gltf = async (json: object) => {
    const bytes = bytesOf(JSON.stringify({ asset: { version: '2.0' }, ...json }));
    return readGlb(await toGlb({ name: 'a.gltf', bytes }));
  };
  for (const json of [
    { meshes: [{ primitives: [{ attributes: { POSITION: 9 } }] }], nodes: [{ mesh: 0 }], scenes: [{ nodes: [0] }] },
    { scenes: 3 },
    { nodes: [{ children: [77] }], scenes: [{ nodes: [5] }] },
    {
      buffers: [{ byteLength: 4, uri: 'data:application/octet-stream;base64,****' }],
      bufferViews: [{ buffer: 0, byteLength: 99 }],
    },
  ])
    await expect(gltf(json)).rejects.toThrow(
      /^(It is broken: what it describes|It has no triangles|A file that it refers to|It needs|Its |A )[^{}]*\.$/,
    );
});

test('a painted file has the normals that it was shown with, and nothing in it that nobody uses', async () => {
  const plain = new IcosahedronGeometry(1, 1);
  const document = new Document();
  const buffer = document.createBuffer();
  const points = document
    .createAccessor()
    .setType('VEC3')
    .setArray(Float32Array.from(plain.getAttribute('position').array))
    .setBuffer(buffer);
  const colours = document
    .createAccessor()
    .setType('VEC4')
    .setArray(new Float32Array(points.getCount() * 4).fill(0.5))
    .setBuffer(buffer);
  const shape = document
    .createMesh('Pebble')
    .addPrimitive(document.createPrimitive().setAttribute('POSITION', points).setAttribute('COLOR_0', colours));
  const scene = document.createScene();
  for (const x of [-2, 2]) scene.addChild(document.createNode(`Pebble ${x}`).setMesh(shape).setTranslation([x, 0, 0]));
  const bytes = Uint8Array.from(await new WebIO().writeBinary(document));
  const before = await readGlb(bytes);
  expect(before.about.hadNormals).toBe(false);
  const painted = await withPaint(
    bytes,
    Float32Array.from({ length: before.about.vertices * 4 }, (_, k) => (k % 7) / 7),
  );
  const report = await validator.validateBytes(painted);
  expect(report.issues).toMatchObject({ numErrors: 0, numWarnings: 0 });
  expect(report.issues.messages.filter(({ code }: { code: string }) => code === 'UNUSED_OBJECT')).toEqual([]);
  const after = await readGlb(painted);
  expect(after.about.hadNormals).toBe(true);
  after.normal.forEach((v, k) => expect(v).toBeCloseTo(before.normal[k]!, 5));
});
