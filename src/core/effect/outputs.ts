/**
 * What an effect can drive, each as one record: its kind, where it may be read, how it is held, what it is called on
 * screen and in open formats. Lowering, every target, baking and the foot of the sheet read these.
 */
import type { Kind } from '../base/kinds.js';
import type { Rate } from '../ir/leaves.js';

export type EffectKind = 'surface' | 'light' | 'mote';

export interface OutputRecord {
  readonly kind: Kind;
  /** The kinds of effect that have it. */
  readonly effects: readonly EffectKind[];
  /** The costliest rate at which it may change. */
  readonly rate: Rate;
  /** Its line on screen. */
  readonly label: string;
  /** What a renderer takes where nothing is connected: components; of an unlit surface, where that is another. */
  readonly neutral: readonly number[];
  readonly unlit?: readonly number[];
  /** What a renderer holds it to; null for what has no end either way. */
  readonly held: readonly [number, number] | null;
  /** What "a value of its own" begins with: a colour's components, or a number; absent where a value by itself means nothing. */
  readonly start?: readonly number[];
  /** How a file of eight bits a channel holds it: as sRGB, as it is, or -1 to 1 as 0 to 1. */
  readonly stored: 'colour' | 'number' | 'signed';
  /** Its name in glTF 2.0 and its ratified extensions; null where there is none. */
  readonly gltf: string | null;
  /** The input of MaterialX's `standard_surface`, or of its `material` node; null where there is none. */
  readonly materialx: string | null;
}

const record = <R extends OutputRecord>(r: R): R => r;
/** A number from 0 to 1 of a lit surface. */
const share = (label: string, neutral: number, start: number, gltf: string | null, materialx: string | null) =>
  record({
    ...{ kind: '1', effects: ['surface'], rate: 'pixel', stored: 'number', held: [0, 1] },
    ...{ label, neutral: [neutral], start: [start], gltf, materialx },
  });

/** In the order in which files and the sheet's foot list them. */
export const OUTPUT_RECORDS = {
  emission: record({
    ...{ kind: 'rgb', effects: ['surface', 'mote'], rate: 'pixel', stored: 'colour', held: null },
    ...{ label: 'Emission', neutral: [0, 0, 0], start: [1, 1, 1], gltf: 'emissiveFactor', materialx: 'emission_color' },
  }),
  baseColour: record({
    ...{ kind: 'rgb', effects: ['surface', 'mote'], rate: 'pixel', stored: 'colour', held: [0, 1] },
    ...{ label: 'Base colour', neutral: [0.5, 0.5, 0.5], unlit: [0, 0, 0], start: [0.5, 0.5, 0.5] },
    ...{ gltf: 'pbrMetallicRoughness.baseColorFactor', materialx: 'base_color' },
  }),
  opacity: record({
    ...share('Opacity', 1, 1, 'pbrMetallicRoughness.baseColorFactor[3]', 'opacity'),
    effects: ['surface', 'mote'],
  }),
  maskThreshold: share('Mask threshold', 0.5, 0.5, 'alphaCutoff', null),
  metalness: share('Metalness', 0, 0, 'pbrMetallicRoughness.metallicFactor', 'metalness'),
  roughness: share('Roughness', 0.6, 0.5, 'pbrMetallicRoughness.roughnessFactor', 'specular_roughness'),
  reflectance: share('Reflectance', 0.04, 0.04, 'KHR_materials_specular.specularFactor', 'specular'),
  normal: record({
    ...{ kind: '3', effects: ['surface'], rate: 'pixel', stored: 'signed', held: [-1, 1] },
    ...{ label: 'Normal', neutral: [0, 0, 1], gltf: 'normalTexture', materialx: 'normal' },
  }),
  occlusion: share('Occlusion', 1, 1, 'occlusionTexture', null),
  displacement: record({
    ...{ kind: '3', effects: ['surface'], rate: 'vertex', stored: 'signed', held: null },
    ...{ label: 'Displacement', neutral: [0, 0, 0], gltf: null, materialx: 'displacementshader' },
  }),
  refraction: record({
    ...{ kind: '2', effects: ['surface'], rate: 'pixel', stored: 'signed', held: null },
    ...{ label: 'Refraction', neutral: [0, 0], gltf: null, materialx: null },
  }),
  colour: record({
    ...{ kind: 'rgb', effects: ['light'], rate: 'frame', stored: 'colour', held: null },
    ...{ label: 'Colour', neutral: [1, 1, 1], start: [1, 1, 1], gltf: 'KHR_lights_punctual.color', materialx: 'color' },
  }),
  intensity: record({
    ...{ kind: '1', effects: ['light'], rate: 'frame', stored: 'number', held: null },
    ...{ label: 'Intensity', neutral: [1], start: [1], gltf: 'KHR_lights_punctual.intensity', materialx: 'intensity' },
  }),
  size: record({
    ...{ kind: '1', effects: ['mote'], rate: 'vertex', stored: 'number', held: null },
    ...{ label: 'Size', neutral: [0.02], start: [0.02], gltf: null, materialx: null },
  }),
  offset: record({
    ...{ kind: '3', effects: ['mote'], rate: 'vertex', stored: 'signed', held: null },
    ...{ label: 'Offset', neutral: [0, 0, 0], gltf: null, materialx: null },
  }),
} as const satisfies Record<string, OutputRecord>;

export type OutputName = keyof typeof OUTPUT_RECORDS;

export const outputRecord = (name: OutputName): OutputRecord => OUTPUT_RECORDS[name];
const NAMES = Object.keys(OUTPUT_RECORDS) as OutputName[];

/** What each kind of effect can drive. */
export const OUTPUTS: Readonly<Record<EffectKind, readonly OutputName[]>> = {
  surface: NAMES.filter((n) => outputRecord(n).effects.includes('surface')),
  light: NAMES.filter((n) => outputRecord(n).effects.includes('light')),
  mote: NAMES.filter((n) => outputRecord(n).effects.includes('mote')),
};
export const OUTPUT_NAMES = NAMES;
