/** A whole vertex and fragment shader around an effect's functions, for other tools and for the compiler's checks. */
import type { Leaf } from '../ir/leaves.js';
import type { Finish } from '../effect/schema.js';
import type { GlslText, StageText } from './glsl.js';

export interface ShaderPair {
  readonly vertex: string;
  readonly fragment: string;
}

const HEAD = '#version 300 es\nprecision highp float;\nprecision highp int;\n';

/** What each leaf is in a fragment shader, and the varying that brings it there. */
const VARYINGS: Partial<Record<Leaf, { type: string; name: string; fragment: string; vertex: string }>> = {
  position: { type: 'vec3', name: 'seenPosition', fragment: 'seenPosition', vertex: 'position' },
  worldPosition: { type: 'vec3', name: 'seenWorld', fragment: 'seenWorld', vertex: '(modelMatrix * vec4(position, 1.0)).xyz' },
  normal: { type: 'vec3', name: 'seenNormal', fragment: 'normalize(seenNormal) * side', vertex: 'worldNormal' },
  objectNormal: { type: 'vec3', name: 'seenObjectNormal', fragment: 'normalize(seenObjectNormal) * side', vertex: 'normal' },
  viewNormal: {
    type: 'vec3',
    name: 'seenViewNormal',
    fragment: 'normalize(seenViewNormal) * side',
    vertex: 'mat3(viewMatrix) * worldNormal',
  },
  view: {
    type: 'vec3',
    name: 'seenView',
    fragment: 'normalize(seenView)',
    vertex: 'cameraPosition - (modelMatrix * vec4(position, 1.0)).xyz',
  },
  uv: { type: 'vec2', name: 'seenUv', fragment: 'seenUv', vertex: 'uv' },
  uv1: { type: 'vec2', name: 'seenUv1', fragment: 'seenUv1', vertex: 'uv1' },
};

export const varyingOf = (leaf: Leaf) => VARYINGS[leaf]!;

const ATTRIBUTES: Partial<Record<Leaf, string>> = {
  position: 'in vec3 position;',
  normal: 'in vec3 normal;',
  uv: 'in vec2 uv;',
  uv1: 'in vec2 uv1;',
};

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

const callOf = (stage: StageText, name: string, text: (leaf: Leaf) => string): string =>
  `${name}(${stage.leaves.map(text).join(', ')})`;

/** Every surface value has a place in one of four targets; unconnected ones have the neutral value. */
const value = (stage: StageText, name: string, neutral: string) =>
  (stage.outputs as readonly string[]).includes(name) ? `s.${name}` : neutral;

export function shaderPair(text: GlslText, finish: Finish, note: string): ShaderPair {
  const { fragment, vertex } = text;
  const varyings = fragment.leaves.map(varyingOf);
  const attributes = new Set<string>(['in vec3 position;', 'in vec3 normal;']);
  for (const leaf of [...fragment.leaves, ...(vertex?.leaves ?? [])]) if (ATTRIBUTES[leaf]) attributes.add(ATTRIBUTES[leaf]);
  const comment = note
    .split('\n')
    .map((l) => `// ${l}`)
    .join('\n');
  const vertexText = [
    HEAD + comment,
    vertex ? `${text.block}\n` : '',
    'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;\nuniform mat4 projectionMatrix;\nuniform vec3 cameraPosition;\n',
    [...attributes].join('\n'),
    varyings.map((v) => `out ${v.type} ${v.name};`).join('\n'),
    vertex ? `\n${[vertex.library, vertex.code].filter(Boolean).join('\n\n')}\n` : '',
    'void main() {',
    '  vec3 worldNormal = normalize(transpose(inverse(mat3(modelMatrix))) * normal);',
    ...varyings.map((v) => `  ${v.name} = ${v.vertex};`),
    vertex
      ? `  vec3 moved = position + ${callOf(vertex, 'displacement', (leaf) => (leaf === 'view' ? `normalize(${varyingOf(leaf).vertex})` : varyingOf(leaf).vertex))};`
      : '  vec3 moved = position;',
    '  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(moved, 1.0);',
    '}',
  ];
  const lit = finish.lighting === 'lit';
  const emission = value(fragment, 'emission', 'vec3(0.0)');
  const base = value(fragment, 'baseColour', lit ? 'vec3(0.5)' : 'vec3(0.0)');
  const opacity = value(fragment, 'opacity', '1.0');
  const targets = lit
    ? [
        'layout(location = 0) out vec4 emissionOpacity;',
        'layout(location = 1) out vec4 baseColourMetalness;',
        'layout(location = 2) out vec4 normalRoughness;',
        'layout(location = 3) out vec4 reflectanceOcclusion;',
      ]
    : ['layout(location = 0) out vec4 colourOpacity;'];
  const stores = lit
    ? [
        `emissionOpacity = vec4(${emission}, ${opacity});`,
        `baseColourMetalness = vec4(${base}, ${value(fragment, 'metalness', '0.0')});`,
        `normalRoughness = vec4(${value(fragment, 'normal', 'vec3(0.0, 0.0, 1.0)')}, ${value(fragment, 'roughness', '0.6')});`,
        `reflectanceOcclusion = vec4(${value(fragment, 'reflectance', '0.04')}, ${value(fragment, 'occlusion', '1.0')}, 0.0, 0.0);`,
      ]
    : [`colourOpacity = vec4(${emission} + ${base}, ${opacity});`];
  const usesSide = fragment.leaves.some((l) => varyingOf(l).fragment.includes('side'));
  const fragmentText = [
    HEAD + comment,
    lit
      ? '// Lit: the four targets hold what the surface is, for a renderer to light.'
      : '// Unlit: the colour as it is, scene-linear and unbounded.',
    `${text.block}\n`,
    varyings.map((v) => `in ${v.type} ${v.name};`).join('\n'),
    targets.join('\n'),
    '',
    [fragment.library, fragment.code].filter(Boolean).join('\n\n'),
    '',
    'void main() {',
    ...(usesSide ? ['  float side = gl_FrontFacing ? 1.0 : -1.0;'] : []),
    `  Surface s = ${callOf(fragment, 'surface', (leaf) => varyingOf(leaf).fragment)};`,
    ...stores.map((s) => `  ${s}`),
    '}',
  ];
  return { vertex: vertexText.filter((l, k) => l !== '' || k > 4).join('\n') + '\n', fragment: fragmentText.join('\n') + '\n' };
}
