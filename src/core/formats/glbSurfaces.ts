/** What the parts of a binary glTF file are made of: materials, and the pictures that they look up. */
import type { Material, Texture } from '@gltf-transform/core';
import type { MeshImage, MeshSurface } from '../mesh/mesh.js';

/** Makes a picture out of a file's bytes; null where it cannot. Pages and Node do it each in their own way. */
export type ImageDecoder = (bytes: Uint8Array<ArrayBuffer>, type: string) => Promise<MeshImage | null>;

/** Pictures of one mesh that are kept; further ones are passed over. */
const MOST_IMAGES = 48;

/** Collects the pictures that surfaces look up, each once. */
export class SurfaceReader {
  private readonly textures: Texture[] = [];

  private imageOf(texture: Texture | null): number | null {
    if (!texture?.getImage()) return null;
    const known = this.textures.indexOf(texture);
    if (known >= 0) return known;
    return this.textures.length < MOST_IMAGES ? this.textures.push(texture) - 1 : null;
  }

  surfaceOf(material: Material): MeshSurface {
    const [r, g, b] = material.getBaseColorFactor();
    const normal = this.imageOf(material.getNormalTexture());
    return {
      name: material.getName().slice(0, 80),
      rgb: [r, g, b],
      roughness: material.getRoughnessFactor(),
      metalness: material.getMetallicFactor(),
      emission: [...material.getEmissiveFactor()],
      bothSides: material.getDoubleSided(),
      base: this.imageOf(material.getBaseColorTexture()),
      normal: normal === null ? null : { image: normal, strength: material.getNormalScale() },
      rough: this.imageOf(material.getMetallicRoughnessTexture()),
    };
  }

  /** @returns the pictures in the order of their places; one that cannot be read is a white texel, which changes nothing */
  images(decode: ImageDecoder): Promise<MeshImage[]> {
    const white: MeshImage = { width: 1, height: 1, rgba: new Uint8Array([255, 255, 255, 255]) };
    return Promise.all(
      this.textures.map(async (t) => (await decode(new Uint8Array(t.getImage()!), t.getMimeType()).catch(() => null)) ?? white),
    );
  }
}
