/** A whole vertex and fragment shader around an effect's functions, for other tools and for the compiler's checks. */
import { typeOf } from '../ir/types.js';
import type { Finish } from '../effect/schema.js';
import type { OutputName } from '../effect/outputs.js';
import { GLSL, glslType } from './dialects/glsl.js';
import type { GlslText, ShaderText } from './glsl.js';
import { DITHER_GLSL } from './dialects/dither.js';
import { GLSL_ALONG, GLSL_PLACES } from './dialects/glslPlaces.js';
import { endingOf, holeText, throughText } from './ending.js';
import {
  ATTRIBUTES,
  VARYINGS,
  attributesIn,
  fragmentText,
  isReadWithin,
  needsOf,
  varyingsFor,
  vertexText,
  type VaryingName,
} from './places.js';
import { neutralText } from './plan.js';
import { commentOf } from './reserved.js';

export interface ShaderPair {
  readonly vertex: string;
  readonly fragment: string;
}

/** @param varying as `type name` */
export const declareVarying = (word: 'in' | 'out', varying: string): string =>
  `${isReadWithin(varying.slice(varying.lastIndexOf(' ') + 1) as VaryingName) ? 'centroid ' : ''}${word} ${varying};`;

const vector = (width: number) => glslType(typeOf('f', width));

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\n';

/**
 * Replaces what is not finite by a stripe of two colours that nothing else uses, by its exponent bits: drivers may
 * assume that NaN does not occur, but not that these bits are never set.
 */
export const FINITE_GLSL = `bool isFinite(float x) { return (floatBitsToUint(x) & 0x7f800000u) != 0x7f800000u; }
bool isFinite(vec2 v) { return isFinite(v.x) && isFinite(v.y); }
bool isFinite(vec3 v) { return isFinite(v.x) && isFinite(v.y) && isFinite(v.z); }
vec3 notFiniteMark(vec2 pixel) {
  return mod(floor((pixel.x + pixel.y) / 4.0), 2.0) < 1.0 ? vec3(1.0, 0.0, 0.42) : vec3(0.05, 0.0, 0.02);
}`;

/** The call of a stage's function, each place in the words of that shader. */
export function callOf(stage: ShaderText, name: 'surface' | 'displacement'): string {
  const text = name === 'surface' ? fragmentText : vertexText;
  const along = stage.bends ? ['alongTangent', 'alongBitangent'] : [];
  return `${name}(${[...stage.leaves.map((leaf) => text(GLSL_PLACES, leaf)), ...along].join(', ')})`;
}

/** The parts around an effect's functions that every shader made of it shares. */
export interface ShaderParts {
  /** Varyings, as `type name`. */
  readonly varyings: readonly string[];
  /** Attributes beside position and normal, as `type name`. */
  readonly attributes: readonly string[];
  /** Functions of the vertex shader that its statements call on. */
  readonly vertexLibrary: string;
  /** Statements of the vertex shader: they fill the varyings and leave `movedPosition` and `movedNormal`. */
  readonly vertexBody: string;
  /** Functions of the fragment shader that its places call on. */
  readonly sceneText: string;
  /** True where what they call on is the eye's matrices, which a fragment shader must declare. */
  readonly usesEye: boolean;
  readonly usesSide: boolean;
}

/** @param also what a renderer adds to the text: its varyings, and whether it looks behind */
export function shaderParts(
  { fragment, vertex }: GlslText,
  also: { readonly varyings?: readonly VaryingName[]; readonly behind?: boolean } = {},
): ShaderParts {
  const varyings = [...new Set([...varyingsFor(fragment.leaves), ...(also.varyings ?? [])])];
  const fills = varyings.map((v) => `${v} = ${GLSL_PLACES.varyings[v]};`);
  const moved = vertex ? `position + ${callOf(vertex, 'displacement')}` : 'position';
  const bends = vertex?.bends ?? false;
  const vertexBody = [
    'mat3 turned = transpose(inverse(mat3(modelMatrix)));',
    ...(bends
      ? ['vec3 tangent = tangentOf(normal);', 'vec3 bitangent = cross(normal, tangent);', 'vec3 alongTangent, alongBitangent;']
      : []),
    `vec3 movedPosition = ${moved};`,
    ...(bends
      ? [
          'vec3 movedNormal = cross(tangent + alongTangent, bitangent + alongBitangent);',
          'movedNormal = dot(movedNormal, movedNormal) > 0.0 ? normalize(movedNormal) : normal;',
        ]
      : ['vec3 movedNormal = normal;']),
    'vec3 worldNormal = normalize(turned * movedNormal);',
    ...fills,
  ].join('\n  ');
  const needs = needsOf(fragment.leaves, also.behind === true || /\bsceneBehind\(/.test(fragment.code));
  return {
    varyings: varyings.map((v) => `${vector(VARYINGS[v])} ${v}`),
    attributes: attributesIn(...fills, moved).map((a) => `${vector(ATTRIBUTES[a])} ${a}`),
    vertexLibrary: bends ? GLSL_ALONG : '',
    vertexBody,
    sceneText: needs
      .map((n) => GLSL_PLACES.needs[n])
      .filter(Boolean)
      .join('\n'),
    usesEye: needs.includes('eye'),
    usesSide: fragment.leaves.some((l) => /\bside\b/.test(fragmentText(GLSL_PLACES, l))),
  };
}

/** Attributes that no file of a mesh has, in words. */
function slopeNote(attribute: string): string {
  const [, name, axis] = /(\w+)D([tb])$/.exec(attribute) ?? [];
  if (!name) return '';
  const of = name === 'objectNormal' ? 'normal' : name;
  return ` // how ${of} changes with a metre along ${axis === 't' ? 'tangentOf(normal)' : 'cross(normal, tangentOf(normal))'}`;
}

/** What the fragment shader leaves: every surface value has a place in one of four targets, or what is seen in one. */
function targetsOf({ outputs }: ShaderText, finish: Finish): { targets: readonly string[]; stores: readonly string[] } {
  const lit = finish.lighting === 'lit';
  const ending = endingOf(outputs, finish);
  const value = (name: OutputName) => (outputs.includes(name) ? `s.${name}` : neutralText(GLSL, name, lit));
  const [emission, base, opacity] = [value('emission'), value('baseColour'), value('opacity')];
  const through = (own: string) => throughText(finish, outputs, own, opacity);
  if (!lit) {
    const own = [emission, ...(outputs.includes('baseColour') ? [base] : [])].join(' + ');
    return {
      targets: ['layout(location = 0) out vec4 colourOpacity;'],
      stores: [`colourOpacity = vec4(${through(own)}, ${ending.refracts ? '1.0' : opacity});`],
    };
  }
  return {
    targets: [
      `layout(location = 0) out vec4 emissionOpacity;${ending.refracts ? ' // emission times opacity, and what is seen behind times the rest' : ''}`,
      'layout(location = 1) out vec4 baseColourMetalness;',
      "layout(location = 2) out vec4 normalRoughness; // the normal in the stage's space",
      'layout(location = 3) out vec4 reflectanceOcclusion;',
    ],
    stores: [
      `emissionOpacity = vec4(${through(emission)}, ${opacity});`,
      `baseColourMetalness = vec4(${base}, ${value('metalness')});`,
      `normalRoughness = vec4(${ending.meshNormal ? 'normalize(seenNormal) * side' : value('normal')}, ${value('roughness')});`,
      `reflectanceOcclusion = vec4(${value('reflectance')}, ${value('occlusion')}, 0.0, 0.0);`,
    ],
  };
}

/** The statements that leave fragments out, for a finish with holes. @param cutoff where the sheet gives no threshold */
export function holesOf(outputs: readonly OutputName[], finish: Finish, cutoff: string): string {
  const hole = holeText(finish, outputs, cutoff, 'seenPosition');
  return hole === null ? '' : `if (${hole}) discard;`;
}

export function shaderPair(text: GlslText, finish: Finish, note: string): ShaderPair {
  const { fragment, vertex } = text;
  const ending = endingOf(fragment.outputs, finish);
  const { varyings, attributes, vertexLibrary, vertexBody, sceneText, usesEye, usesSide } = shaderParts(text, {
    varyings: ending.varyings,
    behind: ending.refracts,
  });
  const comment = commentOf(note);
  const vertexText = [
    HEAD + comment,
    vertex ? `${text.block}\n` : '',
    'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;\nuniform mat4 projectionMatrix;\nuniform vec3 cameraPosition;\n',
    ['vec3 position', 'vec3 normal', ...attributes].map((a) => `in ${a};${slopeNote(a)}`).join('\n'),
    varyings.map((v) => declareVarying('out', v)).join('\n'),
    vertex ? `\n${[vertexLibrary, vertex.library, vertex.code].filter(Boolean).join('\n\n')}\n` : '',
    'void main() {',
    `  ${vertexBody}`,
    '  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(movedPosition, 1.0);',
    '}',
  ];
  const lit = finish.lighting === 'lit';
  const { targets, stores } = targetsOf(fragment, finish);
  const holes = holesOf(fragment.outputs, finish, finish.alphaCutoff.toFixed(4));
  const fragmentText = [
    HEAD + comment,
    lit
      ? '// Lit: the four targets hold what the surface is, for a renderer to light.'
      : '// Unlit: the colour as it is, scene-linear and unbounded.',
    `${text.block}\n`,
    varyings.map((v) => declareVarying('in', v)).join('\n'),
    targets.join('\n'),
    usesEye ? 'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;\nuniform vec3 cameraPosition;' : '',
    sceneText,
    ending.dithers ? DITHER_GLSL : '',
    '',
    [fragment.library, fragment.code].filter(Boolean).join('\n\n'),
    '',
    'void main() {',
    ...(usesSide || ending.meshNormal ? ['  float side = gl_FrontFacing ? 1.0 : -1.0;'] : []),
    `  Surface s = ${callOf(fragment, 'surface')};`,
    ...(holes ? [`  ${holes}`] : []),
    ...stores.map((s) => `  ${s}`),
    '}',
  ];
  return { vertex: vertexText.filter((l, k) => l !== '' || k > 4).join('\n') + '\n', fragment: fragmentText.join('\n') + '\n' };
}
