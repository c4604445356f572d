/** Images on the graphics card: half floats in linear light, with our own smaller levels, one texture a way of looking it up. */
import {
  ClampToEdgeWrapping,
  DataTexture,
  DataUtils,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  MirroredRepeatWrapping,
  NearestFilter,
  RGBAFormat,
  RepeatWrapping,
  type Texture,
  type Wrapping,
} from 'three';
import { GREY, type Level, type Picture, type Wrap } from '../core/base/picture.js';
import type { ImageSlot } from '../core/ir/types.js';

const WRAPPINGS: Record<Wrap, Wrapping> = { repeat: RepeatWrapping, mirror: MirroredRepeatWrapping, clamp: ClampToEdgeWrapping };

interface Held {
  readonly uniform: { value: Texture };
  readonly slot: ImageSlot;
}

const halves = ({ texels }: Level): Uint16Array<ArrayBuffer> =>
  Uint16Array.from(texels, (v) => DataUtils.toHalfFloat(Math.max(-65504, Math.min(65504, v))));

function makeTexture(picture: Picture, { wrap, filter }: ImageSlot): Texture {
  const [first] = picture.levels as [Level];
  const texture = new DataTexture(halves(first), first.width, first.height, RGBAFormat, HalfFloatType);
  texture.wrapS = texture.wrapT = WRAPPINGS[wrap];
  texture.magFilter = filter === 'nearest' ? NearestFilter : LinearFilter;
  texture.minFilter = filter === 'nearest' ? NearestFilter : LinearMipmapLinearFilter;
  texture.flipY = false;
  texture.generateMipmaps = false;
  if (filter !== 'nearest')
    texture.mipmaps = picture.levels.map((l) => ({
      data: halves(l) as unknown as Uint8Array<ArrayBuffer>,
      width: l.width,
      height: l.height,
    }));
  texture.needsUpdate = true;
  return texture;
}

/** The images of one renderer. */
export class Images {
  private readonly held = new Map<string, Held>();
  private readonly pictures = new Map<string, Picture>();

  /** The uniform of an image: grey until it is there, then itself, in every program that has it. */
  uniformOf(slot: ImageSlot): { value: Texture } {
    const name = `${slot.asset} ${slot.wrap} ${slot.filter}`;
    let found = this.held.get(name);
    if (!found) {
      found = { slot, uniform: { value: makeTexture(this.pictures.get(slot.asset) ?? GREY, slot) } };
      this.held.set(name, found);
    }
    return found.uniform;
  }

  provide(asset: string, picture: Picture): void {
    if (this.pictures.get(asset) === picture) return;
    this.pictures.set(asset, picture);
    for (const { slot, uniform } of this.held.values()) {
      if (slot.asset !== asset) continue;
      uniform.value.dispose();
      uniform.value = makeTexture(picture, slot);
    }
  }

  /** Textures hold on to every renderer that has drawn them until they are let go. */
  dispose(): void {
    for (const { uniform } of this.held.values()) uniform.value.dispose();
    this.held.clear();
    this.pictures.clear();
  }
}
