/** Meshes of the props: primitives made here, and those of the artist's own from plain numbers. */
import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  CapsuleGeometry,
  CylinderGeometry,
  Float32BufferAttribute,
  PlaneGeometry,
  SphereGeometry,
  TorusGeometry,
} from 'three';
import type { MeshData } from '../core/mesh/mesh.js';
import { alone } from '../core/mesh/parts.js';
import type { Paint } from '../core/paint/paint.js';
import { partsOf } from '../core/scene/primitives.js';
import type { Primitive } from '../core/scene/stage.js';
import { edgesOf } from '../core/mesh/edges.js';
import { slopesOf } from '../core/mesh/slopes.js';

/** Effects read vertex colours of every mesh: 1 where it has none. */
function withVertexColour(geometry: BufferGeometry, colour: Float32Array | null = null): BufferGeometry {
  const attribute = colour
    ? new BufferAttribute(colour, 4)
    : new BufferAttribute(new Uint8Array(geometry.getAttribute('position').count * 4).fill(255), 4, true);
  return geometry.setAttribute('vertexColour', attribute);
}

export const geometryOf = (source: Primitive): BufferGeometry => withVertexColour(shapeOf(source));

function shapeOf(source: Primitive): BufferGeometry {
  const [one, other] = partsOf(source);
  switch (source.primitive) {
    case 'sphere':
      return new SphereGeometry(source.radius, one, other);
    case 'box':
      return new BoxGeometry(...source.size, one, other, one);
    case 'plane':
      return new PlaneGeometry(...source.size, one, other);
    case 'tube':
      return withLengthwiseUv(
        new CapsuleGeometry(source.radius, Math.max(1e-3, source.length - 2 * source.radius), 12, one, other),
        source.length,
      );
    case 'ring':
      return new TorusGeometry(source.radius, source.thickness / 2, other, one);
    case 'dome':
      return new SphereGeometry(source.radius, one, other, 0, 2 * Math.PI, 0, Math.PI / 2);
    case 'cylinder':
      return new CylinderGeometry(source.radius, source.radius, source.length, one, other);
  }
}

/** v runs evenly from one end of the tube to the other, u once around. */
function withLengthwiseUv(geometry: BufferGeometry, length: number): BufferGeometry {
  const position = geometry.getAttribute('position');
  const uv = geometry.getAttribute('uv');
  const next = new Float32Array(uv.count * 2);
  for (let k = 0; k < uv.count; k++) {
    next[k * 2] = uv.getX(k);
    next[k * 2 + 1] = position.getY(k) / length + 0.5;
  }
  geometry.setAttribute('uv', new Float32BufferAttribute(next, 2));
  return geometry;
}

export function geometryFromMesh(mesh: MeshData): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.position, 3));
  geometry.setAttribute('normal', new BufferAttribute(mesh.normal, 3));
  geometry.setAttribute('uv', new BufferAttribute(mesh.uv, 2));
  if (mesh.uv1) geometry.setAttribute('uv1', new BufferAttribute(mesh.uv1, 2));
  geometry.setIndex(new BufferAttribute(mesh.index, 1));
  withVertexColour(geometry, mesh.colour);
  if (mesh.reduced) geometry.userData.reduced = new BufferAttribute(mesh.reduced, 1);
  return geometry;
}

/** The same mesh with other paint. What it shares with the first are arrays alone: each may be let go of by itself. */
export function paintedWith(plain: BufferGeometry, paint: Paint): BufferGeometry {
  const geometry = new BufferGeometry();
  for (const [name, { array, itemSize, normalized }] of Object.entries(plain.attributes))
    geometry.setAttribute(name, new BufferAttribute(array, itemSize, normalized));
  const index = plain.getIndex();
  if (index) geometry.setIndex(new BufferAttribute(index.array, 1));
  for (const { start, count, materialIndex } of plain.groups) geometry.addGroup(start, count, materialIndex);
  if (plain.userData.reduced) geometry.userData.reduced = plain.userData.reduced;
  for (const slope of ['vertexColourDt', 'vertexColourDb']) geometry.deleteAttribute(slope);
  return withVertexColour(geometry, paint);
}

/**
 * Some of the parts of a mesh, with the vertices that they have and no others, in their order.
 * @param has whether a part is among them, by its place among the groups of the mesh
 */
export function cutOut(whole: BufferGeometry, has: (group: number) => boolean): BufferGeometry {
  const index = whole.getIndex();
  const kept = whole.groups.filter((_, k) => has(k));
  const corners = kept.flatMap(({ start, count }) =>
    Array.from({ length: count }, (_, k) => (index ? index.getX(start + k) : start + k)),
  );
  const { order, vertices } = alone(corners);
  const geometry = new BufferGeometry().setIndex(new BufferAttribute(order, 1));
  for (const [name, { array, itemSize, normalized }] of Object.entries(whole.attributes)) {
    const taken = array.slice(0, vertices.length * itemSize);
    vertices.forEach((v, k) => taken.set(array.subarray(v * itemSize, (v + 1) * itemSize), k * itemSize));
    geometry.setAttribute(name, new BufferAttribute(taken, itemSize, normalized));
  }
  let start = 0;
  for (const { count, materialIndex } of kept) {
    geometry.addGroup(start, count, materialIndex);
    start += count;
  }
  return geometry;
}

const SLOPES = { objectNormalD: ['normal', 3], uvD: ['uv', 2], uv1D: ['uv1', 2], vertexColourD: ['vertexColour', 4] } as const;
const EDGES = ['edge', 'edgeQuad'];
const variants = new WeakMap<BufferGeometry, BufferGeometry>();

/**
 * The geometry with what an effect's program reads of it besides: how its channels change along it, and how far its
 * edges are, which takes corners of their own. Made once a geometry, at the first effect that asks.
 */
export function fitted(base: BufferGeometry, attributes: readonly string[]): BufferGeometry {
  addSlopes(base, attributes);
  if (!attributes.some((a) => EDGES.includes(a))) return base;
  let made = variants.get(base);
  if (!made || attributes.some((a) => base.hasAttribute(a) && !made!.hasAttribute(a))) {
    made?.dispose();
    made = base.toNonIndexed();
    const index = base.getIndex()?.array ?? Uint32Array.from({ length: base.getAttribute('position').count }, (_, k) => k);
    const { all, quads } = edgesOf(base.getAttribute('position').array, index);
    made.setAttribute('edge', new BufferAttribute(all, 3)).setAttribute('edgeQuad', new BufferAttribute(quads, 3));
    variants.set(base, made);
  }
  return made;
}

/** Lets go of a geometry and of what was made of it. */
export function disposeGeometry(base: BufferGeometry): void {
  variants.get(base)?.dispose();
  reduced.get(base)?.dispose();
  base.dispose();
}

/** How every channel of a mesh changes along it, for whoever follows a moved surface on the CPU. */
export function addAllSlopes(geometry: BufferGeometry): void {
  addSlopes(
    geometry,
    Object.entries(SLOPES).flatMap(([prefix, [name]]) =>
      geometry.getAttribute(name)?.array instanceof Float32Array ? [`${prefix}t`] : [],
    ),
  );
}

function addSlopes(base: BufferGeometry, attributes: readonly string[]): void {
  for (const [prefix, [name, width]] of Object.entries(SLOPES)) {
    if (!attributes.some((a) => a.startsWith(prefix)) || base.hasAttribute(`${prefix}t`)) continue;
    const [position, normal, channel] = [base.getAttribute('position'), base.getAttribute('normal'), base.getAttribute(name)];
    // White bytes stand for colours that a mesh does not have: nothing changes along them, nor along uv that are not there.
    const flat = !channel || !(channel.array instanceof Float32Array);
    const still = () => new Float32Array(position.count * width);
    const slopes = flat
      ? { t: still(), b: still() }
      : slopesOf({ position: position.array, normal: normal.array, index: base.getIndex()?.array ?? null }, channel.array, width);
    for (const axis of ['t', 'b'] as const) base.setAttribute(prefix + axis, new BufferAttribute(slopes[axis], width));
  }
}

const reduced = new WeakMap<BufferGeometry, BufferGeometry>();

/** The same shape of far fewer triangles, of the same vertices, where a mesh is large enough to need one. */
export function reducedOf(geometry: BufferGeometry): BufferGeometry | null {
  const index = geometry.userData.reduced as BufferAttribute | undefined;
  // Corners of their own are not vertices that a smaller index could point at.
  if (!index || !geometry.getIndex()) return null;
  let made = reduced.get(geometry);
  if (!made) {
    made = new BufferGeometry().setIndex(index);
    made.boundingSphere = geometry.boundingSphere;
    made.boundingBox = geometry.boundingBox;
    reduced.set(geometry, made);
  }
  for (const [name, attribute] of Object.entries(geometry.attributes)) made.setAttribute(name, attribute);
  return made;
}
