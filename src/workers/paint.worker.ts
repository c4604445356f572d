/** The paint worker: paint to and from its file, and what takes long of a mesh, away from the page. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { expose, transfer } from 'comlink';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { readPaint, writePaint } from '../core/formats/paintFile.js';
import { openness } from '../core/paint/fills.js';
import type { Canvas, Paint } from '../core/paint/paint.js';

export interface PaintFile {
  readonly sha256: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/** Rays a vertex. */
const RAYS = 64;
/** How far from the surface they begin, as a share of the mesh's size: not on it, where rounding would have them meet it. */
const OFF = 1e-4;

const painter = {
  write(paint: Paint): PaintFile {
    const bytes = writePaint(paint);
    return transfer({ bytes, sha256: bytesToHex(sha256(bytes)) }, [bytes.buffer]);
  },
  /** @throws with a sentence */
  read(bytes: Uint8Array): Paint {
    const paint = readPaint(bytes);
    return transfer(paint, [paint.buffer]);
  },
  /** How much of the light from everywhere reaches each vertex, past the mesh itself. @param reach metres of the prop's own */
  openness(canvas: Canvas, reach: number): Float32Array<ArrayBuffer> {
    const geometry = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(canvas.position), 3));
    if (canvas.index) geometry.setIndex(new BufferAttribute(Uint32Array.from(canvas.index), 1));
    const tree = new MeshBVH(geometry, { indirect: true });
    geometry.computeBoundingSphere();
    const off = geometry.boundingSphere!.radius * OFF;
    const ray = new Ray(new Vector3(), new Vector3());
    const values = openness(canvas, RAYS, (from, to) => {
      ray.direction.set(...to);
      ray.origin.set(...from).addScaledVector(ray.direction, off);
      const hit = tree.raycastFirst(ray, DoubleSide);
      return hit !== null && hit.distance < reach;
    });
    return transfer(values, [values.buffer]);
  },
};
export type Painter = typeof painter;

expose(painter);
