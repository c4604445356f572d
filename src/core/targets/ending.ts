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
