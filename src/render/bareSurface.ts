/**
 * What props are made of that wear no effect, and the room: physically based, in the stage's haze. A mesh of the artist's
 * own shows what its file says that it is made of.
 */
import {
  Color,
  DataTexture,
  DoubleSide,
  LinearFilter,
  LinearMipmapLinearFilter,
  MeshStandardMaterial,
  RGBAFormat,
  RepeatWrapping,
  SRGBColorSpace,
  Vector2,
  type BufferGeometry,
  type MeshStandardMaterialParameters,
} from 'three';
import type { MeshData, MeshImage } from '../core/mesh/mesh.js';
import { inStage, type Shading } from './shading.js';

/** What is no metal and no smoother than this mirrors no more of a lamp than is seen beside what it scatters. */
const MATT = 0.7;

/** A surface of the stage's own. @param roughness in the mean, where a picture changes it */
export function bareSurface(
  shading: Shading,
  how: MeshStandardMaterialParameters,
  roughness: number = how.roughness ?? 1,
): MeshStandardMaterial {
  const material = new MeshStandardMaterial(how);
  const gleams = (how.metalness ?? 0) > 0.02 || roughness < MATT;
  material.customProgramCacheKey = () => (gleams ? 'gleams' : 'matt');
  material.onBeforeCompile = (shader) => inStage(shader, shading, gleams);
  return material;
}

/** A channel of a picture in the mean, 0 to 1. */
function meanOf({ rgba }: MeshImage, channel: number): number {
  let sum = 0;
  for (let k = channel; k < rgba.length; k += 4) sum += rgba[k]!;
  return (sum * 4) / rgba.length / 255;
}

function textureOf({ width, height, rgba }: MeshImage, coded: boolean): DataTexture {
  const texture = new DataTexture(rgba, width, height, RGBAFormat);
  if (coded) texture.colorSpace = SRGBColorSpace;
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.minFilter = LinearMipmapLinearFilter;
  texture.magFilter = LinearFilter;
  texture.generateMipmaps = true;
  texture.needsUpdate = true;
  return texture;
}

/** What the parts of a mesh are made of, in the order of its geometry's groups; empty where its file says nothing. */
export class MeshSurfaces {
  readonly materials: MeshStandardMaterial[];
  private readonly textures = new Map<string, DataTexture>();

  constructor(shading: Shading, { parts, images, colour }: MeshData, geometry: BufferGeometry) {
    const look = (image: number | null, coded = false): DataTexture | null => {
      const picture = image === null ? undefined : images[image];
      if (!picture) return null;
      const key = `${image} ${coded}`;
      const known = this.textures.get(key) ?? textureOf(picture, coded);
      this.textures.set(key, known);
      return known;
    };
    /** What a picture has in blue, where that is the same all over: a look-up less for every pixel. */
    const blueOf = (image: number | null): number | null => {
      const rgba = image === null ? undefined : images[image]?.rgba;
      if (!rgba) return 1;
      const same = (v: number) => Math.abs(v - rgba[2]!) <= 3;
      for (let k = 2; k < rgba.length; k += 4) if (!same(rgba[k]!)) return null;
      return rgba[2]! / 255;
    };
    this.materials = parts.map(({ surface }) => {
      const { rgb, roughness, metalness, emission, bothSides, base, normal, rough } = surface;
      const uneven = look(rough);
      const blue = blueOf(rough);
      const how: MeshStandardMaterialParameters = {
        ...{
          color: new Color(...rgb),
          roughness,
          metalness: metalness * (blue ?? 1),
          emissive: new Color(...emission),
          vertexColors: colour !== null,
        },
        ...{
          map: look(base, true),
          roughnessMap: uneven,
          metalnessMap: blue === null ? uneven : null,
          normalMap: look(normal?.image ?? null),
        },
        ...(normal ? { normalScale: new Vector2(normal.strength, normal.strength) } : {}),
        ...(bothSides ? { side: DoubleSide } : {}),
      };
      return bareSurface(shading, how, roughness * (rough === null ? 1 : meanOf(images[rough]!, 1)));
    });
    parts.forEach(({ start, count }, k) => geometry.addGroup(start, count, k));
    // Under the name by which three reads what a colour is multiplied with (glTF 2.0, 3.9.2).
    if (parts.length > 0 && colour) geometry.setAttribute('color', geometry.getAttribute('vertexColour'));
  }

  dispose(): void {
    for (const material of this.materials) material.dispose();
    for (const texture of this.textures.values()) texture.dispose();
  }
}
