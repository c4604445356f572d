/** Materials that wear an effect: physically based ones through three's hooks, unlit ones as plain shaders. */
import {
  BackSide,
  DataTexture,
  DoubleSide,
  FloatType,
  FrontSide,
  GLSL3,
  MeshStandardMaterial,
  RGBAFormat,
  RawShaderMaterial,
  Vector2,
  type Material,
  type Side,
  type Texture,
  type WebGLProgramParametersWithUniforms,
} from 'three';
import { textHash } from '../core/base/textHash.js';
import type { Finish, OutputName } from '../core/effect/schema.js';
import { LEAVES } from '../core/ir/leaves.js';
import type { GlslText, StageText } from '../core/targets/glsl.js';
import { textureOf } from './images.js';
import { FINITE_GLSL, callOf, shaderParts } from '../core/targets/glslPair.js';

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

const has = (stage: StageText, name: OutputName) => stage.outputs.includes(name);
const functions = (text: GlslText, stage: StageText) => [text.block, stage.library, stage.code].filter(Boolean).join('\n\n');
const declare = (word: 'in' | 'out' | 'attribute', list: readonly string[]) => list.map((l) => `${word} ${l};`).join('\n');

/** The textures of a program's images. They are shared by all that look the same image up in the same way. */
function imageUniforms({ fragment, vertex }: GlslText): Record<string, { value: Texture }> {
  const slots = [...fragment.images, ...(vertex?.images ?? [])];
  return Object.fromEntries(slots.map(([name, slot]) => [name, textureOf(slot)]));
}

/** What see-through surfaces read of the opaque scene; without one, nothing lies behind, fifty metres away. */
export interface SceneBehind {
  readonly opaqueColour: { value: Texture };
  readonly opaqueDepth: { value: Texture };
  readonly pictureSize: { value: Vector2 };
}
const NOTHING_BEHIND: SceneBehind = (() => {
  const pixel = (...rgba: number[]) => {
    const texture = new DataTexture(new Float32Array(rgba), 1, 1, RGBAFormat, FloatType);
    texture.needsUpdate = true;
    return { value: texture };
  };
  return {
    opaqueColour: pixel(0, 0, 0, 1),
    opaqueDepth: pixel(LEAVES.depthGap.fallback[0]!, 0, 0, 1),
    pictureSize: { value: new Vector2(1, 1) },
  };
})();

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
  const { varyings, attributes, vertexBody, sceneText, usesEye } = shaderParts(text);
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    uniforms: { ...NOTHING_BEHIND, ...imageUniforms(text) },
    vertexShader: `${head}
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
in vec3 position;
in vec3 normal;
${declare('in', attributes)}
${declare('out', varyings)}
${vertex ? functions(text, vertex) : ''}
void main() {
  ${vertexBody}
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(movedPosition, 1.0);
}`,
    fragmentShader: `${head}
${declare('in', varyings)}
out vec4 colour;
${usesEye ? 'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;\nuniform vec3 cameraPosition;' : ''}
${sceneText}
${functions(text, fragment)}
${FINITE_GLSL}
void main() {
  ${SIDE}
  Surface s = ${callOf(fragment, 'surface')};
  vec3 light = ${emission} + ${base};
  colour = vec4(isFinite(light) ? clamp(light, 0.0, ${BRIGHTEST}) : notFiniteMark(gl_FragCoord.xy), 1.0);
}`,
  });
}

function lit(text: GlslText, key: string): MeshStandardMaterial {
  const { fragment, vertex } = text;
  const material = new MeshStandardMaterial({ color: 0x808080, roughness: 0.6, metalness: 0 });
  material.customProgramCacheKey = () => key;
  const { varyings, attributes, vertexBody, sceneText, usesEye } = shaderParts(text);
  // three declares uv itself, where a texture wants it; nothing here does.
  material.onBeforeCompile = (shader: WebGLProgramParametersWithUniforms) => {
    Object.assign(shader.uniforms, NOTHING_BEHIND, imageUniforms(text));
    const replace = (stage: 'vertexShader' | 'fragmentShader', chunk: string, make: (chunk: string) => string) => {
      const include = `#include <${chunk}>`;
      if (!shader[stage].includes(include)) throw new Error(`three's shader has no ${include}`);
      shader[stage] = shader[stage].replace(include, make(include));
    };
    replace(
      'vertexShader',
      'common',
      (c) =>
        `${c}\n${declare(
          'attribute',
          attributes.filter((a) => a !== 'vec2 uv'),
        )}\n${declare('out', varyings)}\n${vertex ? functions(text, vertex) : ''}`,
    );
    replace('vertexShader', 'begin_vertex', () => `${vertexBody}\nvec3 transformed = movedPosition;`);
    replace(
      'fragmentShader',
      'common',
      (c) =>
        `${c}\n${usesEye ? 'uniform mat4 modelMatrix;' : ''}\n${declare('in', varyings)}\n${sceneText}\n${functions(text, fragment)}\n${FINITE_GLSL}`,
    );
    replace(
      'fragmentShader',
      'color_fragment',
      (c) => `${c}
  ${SIDE}
  Surface s = ${callOf(fragment, 'surface')};
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
