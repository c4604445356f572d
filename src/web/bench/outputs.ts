/** What the outputs are called on screen. */
import type { OutputName } from '../../core/effect/schema.js';

export const OUTPUT_NAMES: Record<OutputName, string> = {
  emission: 'Emission',
  baseColour: 'Base colour',
  opacity: 'Opacity',
  maskThreshold: 'Mask threshold',
  metalness: 'Metalness',
  roughness: 'Roughness',
  reflectance: 'Reflectance',
  normal: 'Normal',
  occlusion: 'Occlusion',
  displacement: 'Displacement',
  refraction: 'Refraction',
  colour: 'Colour',
  intensity: 'Intensity',
  size: 'Size',
  offset: 'Offset',
};
