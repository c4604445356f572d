/**
 * What the programs of one renderer read besides an effect's numbers: the opaque scene behind them, which of a still's
 * samples it is, where shadows are seen from, and images. Each renderer has its own, and lets go of it at its end.
 */
import { DataTexture, FloatType, Matrix4, RGBAFormat, Vector2, Vector3, type PerspectiveCamera, type Texture } from 'three';
import type { Picture } from '../core/base/picture.js';
import type { GlslText } from '../core/targets/glsl.js';
import { Images } from './images.js';
import { Shading } from './shading.js';

type Uniforms = Readonly<Record<string, { value: unknown }>>;

/** A texture of one texel: shaders take one of that size for nothing behind. */
function texel(...rgba: [number, number, number, number]): Texture {
  const texture = new DataTexture(new Float32Array(rgba), 1, 1, RGBAFormat, FloatType);
  texture.needsUpdate = true;
  return texture;
}

export class ProgramState {
  private readonly images = new Images();
  readonly shading = new Shading();
  private readonly black = texel(0, 0, 0, 1);
  /** Which of a still's samples is drawn. */
  readonly sampleIndex = { value: 0 };
  private readonly pictureSize = { value: new Vector2(1, 1) };
  private readonly opaqueColour = { value: this.black };
  readonly opaqueDepth = { value: this.black };
  private readonly eyePosition = { value: new Vector3() };
  private readonly eyeMatrix = { value: new Matrix4() };

  /** @param behind whether the surface is drawn after the opaque scene, which it then has behind it */
  sceneUniforms(behind: boolean): Uniforms {
    const { sampleIndex, pictureSize, opaqueColour, opaqueDepth, black } = this;
    const { uniforms } = this.shading;
    if (behind) return { ...uniforms, sampleIndex, pictureSize, opaqueColour, opaqueDepth };
    return { ...uniforms, sampleIndex, pictureSize, opaqueColour: { value: black }, opaqueDepth: { value: black } };
  }

  /** The light that a shadow is drawn for is no eye of its own: effects are seen from where the picture is. */
  get eyeUniforms(): Uniforms {
    return { eyePosition: this.eyePosition, eyeMatrix: this.eyeMatrix };
  }

  /** The textures of a program's images. They are shared by all that look the same image up in the same way. */
  imageUniforms({ fragment, vertex }: GlslText): Record<string, { value: Texture }> {
    const slots = [...fragment.images, ...(vertex?.images ?? [])];
    return Object.fromEntries(slots.map(([name, slot]) => [name, this.images.uniformOf(slot)]));
  }

  providePicture(key: string, picture: Picture): void {
    this.images.provide(key, picture);
  }

  /** Where the picture that is drawn next is seen from, and how large it is. */
  seeFrom(camera: PerspectiveCamera, width: number, height: number): void {
    this.eyePosition.value.setFromMatrixPosition(camera.matrixWorld);
    this.eyeMatrix.value.copy(camera.matrixWorldInverse);
    this.pictureSize.value.set(width, height);
  }

  /** The opaque scene as it has been drawn. */
  putBehind(colour: Texture, depth: Texture): void {
    this.opaqueColour.value = colour;
    this.opaqueDepth.value = depth;
  }

  dispose(): void {
    this.images.dispose();
    this.shading.dispose();
    this.black.dispose();
  }
}
