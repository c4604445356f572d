/** What a finish asks of the end of a shader: what is left out, what is looked up behind, which normal a renderer takes. */
import type { Finish } from '../effect/schema.js';
import type { OutputName } from '../effect/outputs.js';
import type { VaryingName } from './places.js';

/** Drawn after the opaque scene, which they may read. */
export const isSeeThrough = ({ alphaMode }: Finish): boolean => alphaMode === 'blend' || alphaMode === 'add';

/** What lies behind is looked up aside and mixed in by the shader, so that nothing is left to blend with. */
export const refracts = (finish: Finish, outputs: readonly OutputName[]): boolean =>
  finish.alphaMode === 'blend' && outputs.includes('refraction');

/** How what is drawn joins what is there already. Alpha is straight: the colour is not multiplied by it. */
export interface Blending {
  readonly mode: 'none' | 'cover' | 'add';
  readonly alpha: 'straight';
  readonly source: 'one' | 'source alpha';
  readonly destination: 'zero' | 'one minus source alpha' | 'one';
}

export function blendingOf(finish: Finish, outputs: readonly OutputName[]): Blending {
  const alpha = 'straight';
  if (!isSeeThrough(finish) || refracts(finish, outputs)) return { mode: 'none', alpha, source: 'one', destination: 'zero' };
  return finish.alphaMode === 'add'
    ? { mode: 'add', alpha, source: 'source alpha', destination: 'one' }
    : { mode: 'cover', alpha, source: 'source alpha', destination: 'one minus source alpha' };
}

export interface Ending {
  readonly refracts: boolean;
  /** A lit surface that gives no normal has its mesh's, as what moves it has bent it. */
  readonly meshNormal: boolean;
  /** A share of the fragments is left out, by where the surface is. */
  readonly dithers: boolean;
  /** Varyings that it reads beside the outputs'. */
  readonly varyings: readonly VaryingName[];
}

export function endingOf(outputs: readonly OutputName[], finish: Finish): Ending {
  const meshNormal = finish.lighting === 'lit' && !outputs.includes('normal');
  const dithers = finish.alphaMode === 'dither';
  return {
    ...{ refracts: refracts(finish, outputs), meshNormal, dithers },
    varyings: [...(meshNormal ? (['seenNormal'] as const) : []), ...(dithers ? (['seenPosition'] as const) : [])],
  };
}

/** What the fragments of a whole shader leave, by their lighting: names of its colours, in their order. */
export const COLOURS = {
  lit: ['emissionOpacity', 'baseColourMetalness', 'normalRoughness', 'reflectanceOcclusion'],
  unlit: ['colourOpacity'],
} as const;

// What follows is the same text in every language.

/** What is seen of a surface, and through it where it refracts. @param own its own light @param opacity */
export function throughText(finish: Finish, outputs: readonly OutputName[], own: string, opacity: string): string {
  if (!refracts(finish, outputs)) return own;
  const blur = outputs.includes('roughness') ? 'clamp(s.roughness, 0.0, 1.0)' : '0.0';
  return `mix(sceneBehind(s.refraction, ${blur}), ${own}, clamp(${opacity}, 0.0, 1.0))`;
}

/** When a fragment is left out; null for a finish without holes. @param cutoff where the sheet gives no threshold @param place in the prop's own space */
export function holeText({ alphaMode }: Finish, outputs: readonly OutputName[], cutoff: string, place: string): string | null {
  const opacity = outputs.includes('opacity') ? 's.opacity' : '1.0';
  if (alphaMode === 'mask') return `${opacity} < ${outputs.includes('maskThreshold') ? 's.maskThreshold' : cutoff}`;
  return alphaMode === 'dither' ? `${opacity} <= scatter(${place})` : null;
}
