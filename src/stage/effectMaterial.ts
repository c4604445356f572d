/** Materials that wear an effect: physically based ones through three's hooks, unlit ones as plain shaders. */
import {
  BackSide,
  DoubleSide,
  FrontSide,
  GLSL3,
  MeshStandardMaterial,
  RawShaderMaterial,
  type Material,
  type Side,
  type WebGLProgramParametersWithUniforms,
} from 'three';
import { textHash } from '../core/base/textHash.js';
import type { Finish, OutputName } from '../core/effect/schema.js';
import type { Leaf } from '../core/ir/leaves.js';
import type { GlslText, StageText } from '../core/targets/glsl.js';
import { FINITE_GLSL, varyingOf } from '../core/targets/glslPair.js';

/** Radiance is held here before the half-float picture, whose largest number is 65504. */
const BRIGHTEST = '60000.0';

const SIDES: Record<Finish['sides'], Side> = { front: FrontSide, back: BackSide, both: DoubleSide };

export const programKey = (text: GlslText, finish: Finish): string => {
  const { fragment, vertex, block } = text;
  const parts = [
    block,
    fragment.library,
    fragment.code,
    vertex?.library ?? '',
    vertex?.code ?? '',
    finish.lighting,
    finish.sides,
  ];
  return textHash(parts.join('\n')) + textHash(parts.reverse().join('\n'));
};

const call = (stage: StageText, name: string, text: (leaf: Leaf) => string) => `${name}(${stage.leaves.map(text).join(', ')})`;
const has = (stage: StageText, name: OutputName) => stage.outputs.includes(name);
const functions = (text: GlslText, stage: StageText) => [text.block, stage.library, stage.code].filter(Boolean).join('\n\n');

function declareVaryings(stage: StageText, word: 'in' | 'out'): string {
  return stage.leaves.map((leaf) => `${word} ${varyingOf(leaf).type} ${varyingOf(leaf).name};`).join('\n');
}

/** The statements that fill the varyings and move the vertex. */
function vertexBody(text: GlslText): string {
  const varyings = text.fragment.leaves.map((leaf) => `${varyingOf(leaf).name} = ${varyingOf(leaf).vertex};`);
  const moved = text.vertex
    ? `position + ${call(text.vertex, 'displacement', (leaf) => (leaf === 'view' ? `normalize(${varyingOf(leaf).vertex})` : varyingOf(leaf).vertex))}`
    : 'position';
  return [
    'vec3 worldNormal = normalize(transpose(inverse(mat3(modelMatrix))) * normal);',
    ...varyings,
    `vec3 movedPosition = ${moved};`,
  ].join('\n  ');
}

const SIDE = 'float side = gl_FrontFacing ? 1.0 : -1.0;';

export function effectMaterial(text: GlslText, finish: Finish): Material {
  const material = finish.lighting === 'unlit' ? unlit(text) : lit(text, programKey(text, finish));
  material.side = SIDES[finish.sides];
  material.depthWrite = finish.writesDepth;
  return material;
}

function unlit(text: GlslText): RawShaderMaterial {
  const { fragment, vertex } = text;
  const emission = has(fragment, 'emission') ? 's.emission' : 'vec3(0.0)';
  const base = has(fragment, 'baseColour') ? 's.baseColour' : 'vec3(0.0)';
  const head = 'precision highp float;\nprecision highp int;';
  const uv1 = [...fragment.leaves, ...(vertex?.leaves ?? [])].includes('uv1') ? 'in vec2 uv1;' : '';
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: `${head}
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
in vec3 position;
in vec3 normal;
in vec2 uv;
${uv1}
${declareVaryings(fragment, 'out')}
${vertex ? functions(text, vertex) : ''}
void main() {
  ${vertexBody(text)}
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(movedPosition, 1.0);
}`,
    fragmentShader: `${head}
${declareVaryings(fragment, 'in')}
out vec4 colour;
${functions(text, fragment)}
${FINITE_GLSL}
void main() {
  ${SIDE}
  Surface s = ${call(fragment, 'surface', (leaf) => varyingOf(leaf).fragment)};
  vec3 light = ${emission} + ${base};
  colour = vec4(isFinite(light) ? clamp(light, 0.0, ${BRIGHTEST}) : notFiniteMark(gl_FragCoord.xy), 1.0);
}`,
  });
}

function lit(text: GlslText, key: string): MeshStandardMaterial {
  const { fragment, vertex } = text;
  const material = new MeshStandardMaterial({ color: 0x808080, roughness: 0.6, metalness: 0 });
  material.customProgramCacheKey = () => key;
  material.onBeforeCompile = (shader: WebGLProgramParametersWithUniforms) => {
    const replace = (stage: 'vertexShader' | 'fragmentShader', chunk: string, make: (chunk: string) => string) => {
      const include = `#include <${chunk}>`;
      if (!shader[stage].includes(include)) throw new Error(`three's shader has no ${include}`);
      shader[stage] = shader[stage].replace(include, make(include));
    };
    replace(
      'vertexShader',
      'common',
      (c) => `${c}\n${declareVaryings(fragment, 'out')}\n${vertex ? functions(text, vertex) : ''}`,
    );
    replace('vertexShader', 'begin_vertex', () => `${vertexBody(text)}\nvec3 transformed = movedPosition;`);
    replace(
      'fragmentShader',
      'common',
      (c) => `${c}\n${declareVaryings(fragment, 'in')}\n${functions(text, fragment)}\n${FINITE_GLSL}`,
    );
    replace(
      'fragmentShader',
      'color_fragment',
      (c) => `${c}
  ${SIDE}
  Surface s = ${call(fragment, 'surface', (leaf) => varyingOf(leaf).fragment)};
  bool sound = true;
  ${has(fragment, 'baseColour') ? 'sound = sound && isFinite(s.baseColour);\n  diffuseColor.rgb = clamp(s.baseColour, 0.0, 1.0);' : ''}
  ${has(fragment, 'emission') ? 'sound = sound && isFinite(s.emission);' : ''}`,
    );
    const set = (chunk: string, name: OutputName, statement: string) => {
      if (has(fragment, name))
        replace('fragmentShader', chunk, (c) => `${c}\n  sound = sound && isFinite(s.${name});\n  ${statement}`);
    };
    set('roughnessmap_fragment', 'roughness', 'roughnessFactor = clamp(s.roughness, 0.0, 1.0);');
    set('metalnessmap_fragment', 'metalness', 'metalnessFactor = clamp(s.metalness, 0.0, 1.0);');
    set('normal_fragment_maps', 'normal', 'normal = normalize((viewMatrix * vec4(s.normal, 0.0)).xyz);');
    set('emissivemap_fragment', 'emission', `totalEmissiveRadiance = clamp(s.emission, 0.0, ${BRIGHTEST});`);
    set(
      'lights_physical_fragment',
      'reflectance',
      'material.specularColor = vec3(clamp(s.reflectance, 0.0, 1.0));\n  material.specularColorBlended = mix(material.specularColor, diffuseColor.rgb, metalnessFactor);',
    );
    set('aomap_fragment', 'occlusion', 'reflectedLight.indirectDiffuse *= clamp(s.occlusion, 0.0, 1.0);');
    replace(
      'fragmentShader',
      'opaque_fragment',
      (c) => `outgoingLight = sound ? min(outgoingLight, vec3(${BRIGHTEST})) : notFiniteMark(gl_FragCoord.xy);\n  ${c}`,
    );
  };
  return material;
}
