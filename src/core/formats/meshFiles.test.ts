/** Meshes of other kinds, written by other libraries or by hand after their descriptions, and read as one binary glTF file. */
import { Document, WebIO } from '@gltf-transform/core';
import validator from 'gltf-validator';
import { BufferAttribute, Mesh, SphereGeometry, TorusGeometry } from 'three';
import { OBJExporter } from 'three/examples/jsm/exporters/OBJExporter.js';
import { PLYExporter } from 'three/examples/jsm/exporters/PLYExporter.js';
import { readGlb } from './glb.js';
import { withPaint, writeMesh } from './glbPaint.js';
import { toGlb } from './meshFiles.js';

const bytesOf = (text: string) => new TextEncoder().encode(text) as Uint8Array<ArrayBuffer>;
const read = async (
  name: string,
  content: string | Uint8Array<ArrayBuffer>,
  beside: { name: string; bytes: Uint8Array<ArrayBuffer> }[] = [],
) => {
  const bytes = await toGlb({ name, bytes: typeof content === 'string' ? bytesOf(content) : content }, beside);
  expect((await validator.validateBytes(bytes)).issues.numErrors).toBe(0);
  return readGlb(bytes);
};

// A roof of two panes, as Wavefront's description of the format has it: faces of four corners, uv and normals by number.
const ROOF = `# two panes
v 0 0 0
v 2 0 0
v 2 1 -1
v 0 1 -1
v 2 0 -2
v 0 0 -2
vt 0 0
vt 1 0
vt 1 1
vt 0 1
vn 0 0.7071 0.7071
vn 0 0.7071 -0.7071
f 1/1/1 2/2/1 3/3/1 4/4/1
f 4/1/2 3/2/2 5/3/2 6/4/2
`;

test('OBJ by hand: faces are cut into triangles, uv go up, what shares a corner shares a vertex', async () => {
  const roof = await read('roof.obj', ROOF);
  expect(roof.about).toMatchObject({
    triangles: 4,
    vertices: 8,
    low: [0, 0, -2],
    high: [2, 1, 0],
    hadNormals: true,
    hadUv: true,
  });
  for (let v = 0; v < 8; v++) {
    const [x, y] = [roof.position[v * 3]!, roof.position[v * 3 + 1]!];
    // u goes along x; v from each pane's first side to its last.
    expect(roof.uv[v * 2]).toBeCloseTo(x / 2, 6);
    if (roof.normal[v * 3 + 2]! > 0) expect(roof.uv[v * 2 + 1]).toBeCloseTo(y, 6);
  }
  const bare = await read('bare.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nv 1 1 0\nf 1 2 3\nf 2 4 3\n');
  expect(bare.about).toMatchObject({ triangles: 2, vertices: 4, hadUv: false });
  // Normals that are missing are made: both triangles face +z.
  for (let v = 0; v < 4; v++) expect(bare.normal[v * 3 + 2]).toBeCloseTo(1, 6);
});

// What it calls when it is done waits for a frame, which Node has not.
globalThis.requestAnimationFrame = () => 0;

test('OBJ by hand: what is made of one material is a part of that name, and no vertex is two parts’', async () => {
  const [first, second] = ROOF.split(/^(?=f 4)/m) as [string, string];
  const roof = await read('roof.obj', `${first.replace(/^f /m, 'usemtl Slate\nf ')}usemtl Glass\n${second}`);
  expect(roof.about).toMatchObject({ triangles: 4, vertices: 8 });
  expect(roof.parts.map(({ surface, start, count }) => [surface.name, start, count])).toEqual([
    ['Slate', 0, 6],
    ['Glass', 6, 6],
  ]);
  // The first pane slopes up away from +z, the second down to -z, as the file's normals have it.
  const facing = (corner: number) => Math.sign(roof.normal[roof.index[corner]! * 3 + 2]!);
  expect([0, 5, 6, 11].map(facing)).toEqual([1, 1, -1, -1]);
  expect((await read('plain.obj', ROOF)).parts).toEqual([]);
});

test('OBJ and PLY, text and binary, as another library writes them', async () => {
  const ball = new SphereGeometry(0.7, 12, 8);
  const triangles = ball.getIndex()!.count / 3;
  const obj = await read('ball.obj', new OBJExporter().parse(new Mesh(ball)));
  expect(obj.about).toMatchObject({ triangles, hadNormals: true, hadUv: true });
  obj.about.high.forEach((v) => expect(v).toBeCloseTo(0.7, 1));
  const ring = new TorusGeometry(1, 0.3, 8, 24);
  const count = ring.getAttribute('position').count;
  ring.setAttribute(
    'color',
    new BufferAttribute(
      Float32Array.from({ length: count * 3 }, (_, k) => (k % 3 === 0 ? 1 : 0)),
      3,
    ),
  );
  const text = new PLYExporter().parse(new Mesh(ring), () => undefined, {}) as string;
  const binary = new PLYExporter().parse(new Mesh(ring), () => undefined, {
    binary: true,
    littleEndian: true,
  }) as unknown as ArrayBuffer;
  for (const content of [text, new Uint8Array(binary)]) {
    const mesh = await read('ring.ply', content);
    expect(mesh.about).toMatchObject({ triangles: ring.getIndex()!.count / 3, vertices: count });
    // Its colours are its paint.
    expect([...mesh.colour!.slice(0, 4)]).toEqual([1, 0, 0, 1]);
  }
});

test('glTF with its numbers beside it', async () => {
  const document = new Document();
  const buffer = document.createBuffer();
  const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0)))
    .setIndices(accessor('SCALAR', Uint16Array.of(0, 1, 2)));
  document.createScene().addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)));
  buffer.setURI('numbers.bin');
  const { json, resources } = await new WebIO().writeJSON(document);
  const [[name, bytes]] = Object.entries(resources) as [[string, Uint8Array<ArrayBuffer>]];
  const mesh = await read('pane.gltf', JSON.stringify(json), [{ name, bytes }]);
  expect(mesh.about).toMatchObject({ triangles: 1, high: [1, 1, 0] });
  await expect(read('pane.gltf', JSON.stringify(json))).rejects.toThrow(`It refers to "${name}": choose both together.`);
});

test.each([
  ['empty.obj', '', /not an OBJ file/],
  ['words.obj', 'once upon a time', /not an OBJ file/],
  ['points.obj', 'v 0 0 0\nv 1 0 0\n', /no triangles/],
  ['beyond.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n', /a vertex that is not there/],
  ['words.ply', 'plywood', /not a PLY file/],
  [
    'points.ply',
    'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float z\nend_header\n0 0 0\n',
    /only points/,
  ],
  [
    'beyond.ply',
    'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n',
    /a vertex that is not there/,
  ],
  ['broken.gltf', '{', /not JSON/],
  ['null.gltf', 'null', /not a glTF description/],
])('%s is refused in a sentence', async (name, content, why) => {
  await expect(read(name, content)).rejects.toThrow(why);
});

test('a mesh that two nodes show gets paint of its own under each', async () => {
  const document = new Document();
  const buffer = document.createBuffer();
  const position = document
    .createAccessor()
    .setType('VEC3')
    .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
    .setBuffer(buffer);
  const mesh = document.createMesh().addPrimitive(document.createPrimitive().setAttribute('POSITION', position));
  const scene = document.createScene();
  for (const x of [0, 5]) scene.addChild(document.createNode().setMesh(mesh).setTranslation([x, 0, 0]));
  const bytes = await new WebIO().writeBinary(document);
  const paint = Float32Array.from({ length: 24 }, (_, k) => Math.fround(Math.round((65535 * k) / 23) / 65535));
  const painted = await withPaint(bytes, paint);
  expect((await validator.validateBytes(painted)).issues.numErrors).toBe(0);
  const back = await readGlb(painted);
  expect(back.about.vertices).toBe(6);
  [...back.colour!].forEach((v, k) => expect(v).toBeCloseTo(paint[k]!, 6));
  // And what has none is written without.
  const plain = await readGlb(
    await writeMesh({ name: 'a', position: [0, 0, 0, 1, 0, 0, 0, 1, 0], normal: null, uv: null, index: null }, null),
  );
  expect(plain.colour).toBeNull();
});
