/** The light all around: a plain colour, or a picture of it that lights every surface by its roughness, seen or not. */
import {
  AmbientLight,
  Color,
  DataTexture,
  DataUtils,
  EquirectangularReflectionMapping,
  HalfFloatType,
  LinearFilter,
  PMREMGenerator,
  RGBAFormat,
  type Scene,
  type WebGLRenderTarget,
  type WebGLRenderer,
} from 'three';
import type { Stage } from '../core/scene/stage.js';

/** A picture of the whole sphere, twice as wide as high: linear, three numbers a texel, top row first. */
export interface Panorama {
  readonly width: number;
  readonly height: number;
  readonly rgb: Float32Array;
}

/** How bright what is behind all is to the light all around: it should not compete with what is looked at. */
export const BEHIND = 0.25;

interface Lit {
  readonly seen: DataTexture;
  /** Blurred for every roughness. */
  readonly light: WebGLRenderTarget;
}

export class Surroundings {
  readonly ambient = new AmbientLight(0xffffff, 1);
  private readonly panoramas = new Map<string, Lit>();

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly scene: Scene,
  ) {}

  has(id: string): boolean {
    return this.panoramas.has(id);
  }

  provide(id: string, { width, height, rgb }: Panorama): void {
    const texels = new Uint16Array(width * height * 4);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const from = (y * width + x) * 3;
        const into = ((height - 1 - y) * width + x) * 4;
        for (let lane = 0; lane < 3; lane++) texels[into + lane] = DataUtils.toHalfFloat(Math.min(60000, rgb[from + lane]!));
        texels[into + 3] = DataUtils.toHalfFloat(1);
      }
    const seen = new DataTexture(texels, width, height, RGBAFormat, HalfFloatType);
    seen.mapping = EquirectangularReflectionMapping;
    seen.minFilter = seen.magFilter = LinearFilter;
    seen.needsUpdate = true;
    const generator = new PMREMGenerator(this.renderer);
    const light = generator.fromEquirectangular(seen);
    generator.dispose();
    this.panoramas.set(id, { seen, light });
  }

  /** Until its picture is there the colour stands for it. */
  apply({ asset, rgb, strength, turn, seen }: Stage['surroundings']): void {
    const { scene, ambient } = this;
    const panorama = asset === null ? undefined : this.panoramas.get(asset);
    ambient.color.setRGB(...rgb);
    // three's ambient light of intensity pi lights a white diffuser to radiance 1.
    ambient.intensity = panorama ? 0 : strength * Math.PI;
    scene.environment = panorama?.light.texture ?? null;
    scene.environmentIntensity = strength;
    scene.environmentRotation.y = (turn * Math.PI) / 180;
    scene.backgroundRotation.y = (turn * Math.PI) / 180;
    scene.backgroundIntensity = panorama && seen ? strength : 1;
    scene.background = panorama && seen ? panorama.seen : new Color().setRGB(...rgb).multiplyScalar(strength * BEHIND);
  }

  dispose(): void {
    for (const { seen, light } of this.panoramas.values()) {
      seen.dispose();
      light.dispose();
    }
  }
}
