/** A shape as a binary glTF file: its surfaces with their pictures, its vertices with what they see of the sky. */
import { Document, NodeIO, type Accessor, type Material } from '@gltf-transform/core';
import { Box3, BufferAttribute, Vector3, type BufferGeometry } from 'three';
import { mergeGeometries } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { MeshBVH } from 'three-mesh-bvh';
import { Quantization } from '../../src/core/formats/quantization.js';
import { fewer } from './fewer.js';
import { field, from, strand } from './field.js';
import { occlusionOf } from './occlusion.js';
import type { Shape, Triple } from './shape.js';
import type { SurfacePictures } from './texture.js';

export interface Surface {
  readonly name: string;
  readonly pictures: SurfacePictures | null;
  /** Metres that its pictures cover. */
  readonly size: number;
  readonly rgb: readonly [number, number, number];
  readonly roughness: number;
  readonly metalness: number;
  readonly emission?: readonly [number, number, number];
  readonly bothSides?: boolean;
  readonly strength?: number;
}

/** Broad unevenness of everything, so that what repeats does not look so. */
const uneven = field(
  [
    strand('p', 'position', {}, { space: 'object' }),
    strand('wide', 'fractal', { position: from('p'), scale: 0.55, octaves: 3, seed: 11 }),
    strand('near', 'fractal', { position: from('p'), scale: 2.7, octaves: 3, seed: 5 }),
    strand('both', 'add', { a: from('wide'), b: from('near') }),
  ],
  'both',
);

export interface Making {
  /** Metres from which on nothing takes light away; 0 bakes none. */
  readonly reach: number;
  /** How uneven its colours are. */
  readonly uneven?: number;
  /** Vertex colours are paint for an effect, not light. */
  readonly painted?: boolean;
  /** Its wires are seen: it keeps all of them. */
  readonly wired?: boolean;
}

/** Pieces of one surface as one geometry, coloured by what they see of the sky. */
function joined(shape: Shape, name: string, whole: MeshBVH | null, { reach, uneven: amount = 0.22, painted }: Making): BufferGeometry {
  const pieces = shape.pieces.filter((p) => p.surface === name);
  const geometry = mergeGeometries(
    pieces.map((p) => {
      const copy = p.geometry.clone();
      const n = copy.getAttribute('position').count;
      const paint = copy.getAttribute('paint');
      const colour = new Float32Array(n * 4);
      for (let k = 0; k < n; k++) {
        if (painted) colour.set([paint?.getX(k) ?? 0, paint?.getY(k) ?? 0, paint?.getZ(k) ?? 0, 1], 4 * k);
        else colour.set([...p.tint, 1], 4 * k);
      }
      copy.deleteAttribute('paint');
      return copy.setAttribute('colour', new BufferAttribute(colour, 4));
    }),
  );
  if (painted) return geometry;
  const position = geometry.getAttribute('position');
  const plane = (axis: number) => Float32Array.from({ length: position.count }, (_, k) => position.getComponent(k, axis));
  const [[rough]] = uneven(plane(0), plane(1), plane(2)) as [[Float32Array]];
  const seen = whole && reach > 0 ? occlusionOf(geometry, whole, reach) : null;
  const colour = geometry.getAttribute('colour');
  for (let k = 0; k < position.count; k++) {
    const light = (seen?.[k] ?? 1) * Math.max(0.3, Math.min(1, 0.86 + amount * rough[k]!));
    for (let j = 0; j < 3; j++) colour.setComponent(k, j, Math.min(1, colour.getComponent(k, j) * light));
  }
  return geometry;
}

/** Uv to so many steps a unit: what is drawn does not change, and files pack. */
const UV_STEPS = 2048;

/** The middle of what lies in all geometries, and how far it reaches from there at most. */
function boundsOf(geometries: readonly BufferGeometry[]): { middle: Triple; half: number } {
  const box = new Box3();
  for (const geometry of geometries) box.union(new Box3().setFromBufferAttribute(geometry.getAttribute('position') as BufferAttribute));
  const middle = box.getCenter(new Vector3());
  const size = box.getSize(new Vector3());
  return { middle: middle.toArray(), half: Math.max(size.x, size.y, size.z) / 2 };
}

export async function glbOf(
  name: string,
  shape: Shape,
  surfaces: ReadonlyMap<string, Surface>,
  making: Making,
): Promise<Uint8Array> {
  const document = new Document();
  document.createExtension(Quantization).setRequired(true);
  document.getRoot().getAsset().generator = 'Wispen, demo/make';
  const buffer = document.createBuffer();
  const bare = shape.pieces.map((p) => {
    const copy = p.geometry.clone();
    copy.deleteAttribute('paint');
    return copy;
  });
  const whole = making.reach > 0 ? new MeshBVH(mergeGeometries(bare)) : null;
  const { middle, half } = boundsOf(bare);
  const mesh = document.createMesh(name);
  for (const used of [...new Set(shape.pieces.map((p) => p.surface))].sort()) {
    const surface = surfaces.get(used);
    if (!surface) throw new Error(`${name} is made of ${used}, which is no surface`);
    const full = joined(shape, used, whole, making);
    const geometry = making.painted || making.wired ? full : await fewer(full);
    const list = (attribute: string) => Array.from(geometry.getAttribute(attribute).array);
    const uv = list('uv').map((v, k) => {
      const up = k % 2 === 1;
      return Math.round((making.painted ? (up ? 1 - v : v) : (up ? -v : v) / surface.size) * UV_STEPS) / UV_STEPS;
    });
    const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Parameters<Accessor['setArray']>[0], normalized = false) =>
      document.createAccessor().setType(type).setArray(array).setNormalized(normalized).setBuffer(buffer);
    const position = Int16Array.from(list('position'), (v, k) => Math.round((32767 * (v - middle[k % 3]!)) / half));
    const normal = Int8Array.from(list('normal'), (v) => Math.round(127 * v));
    const colour = Uint8Array.from(list('colour'), (v) => Math.round(255 * v));
    const index = Uint32Array.from(geometry.getIndex()!.array);
    const vertices = position.length / 3;
    mesh.addPrimitive(
      document
        .createPrimitive()
        .setAttribute('POSITION', accessor('VEC3', position, true))
        .setAttribute('NORMAL', accessor('VEC3', normal, true))
        .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(uv)))
        .setAttribute('COLOR_0', accessor('VEC4', colour, true))
        .setIndices(accessor('SCALAR', vertices < 65536 ? Uint16Array.from(index) : index))
        .setMaterial(materialOf(document, surface)),
    );
  }
  const node = document.createNode(name).setMesh(mesh).setTranslation([...middle]).setScale([half, half, half]);
  document.createScene(name).addChild(node);
  return new NodeIO().registerExtensions([Quantization]).writeBinary(document);
}

function materialOf(document: Document, surface: Surface): Material {
  const { name, pictures, rgb, roughness, metalness, emission, bothSides = false, strength = 1 } = surface;
  const material = document
    .createMaterial(name)
    .setBaseColorFactor([...rgb, 1])
    .setRoughnessFactor(roughness)
    .setMetallicFactor(metalness)
    .setDoubleSided(bothSides);
  if (emission) material.setEmissiveFactor([...emission]);
  if (!pictures) return material;
  const texture = (what: string, image: Uint8Array) => document.createTexture(`${name} ${what}`).setImage(image).setMimeType('image/jpeg');
  return material
    .setBaseColorTexture(texture('base', pictures.base))
    .setNormalTexture(texture('normal', pictures.normal))
    .setNormalScale(strength)
    .setMetallicRoughnessTexture(texture('roughness', pictures.rough));
}
