/** Materials that wear an effect: physically based ones through three's hooks, unlit ones as plain shaders. */
import {
  AdditiveBlending,
  BackSide,
  DoubleSide,
  FrontSide,
  GLSL3,
  MeshStandardMaterial,
  NormalBlending,
  RawShaderMaterial,
  type Material,
  type Side,
  type WebGLProgramParametersWithUniforms,
} from 'three';
import { textHash } from '../core/base/textHash.js';
import type { Finish } from '../core/effect/schema.js';
import { outputRecord, type OutputName } from '../core/effect/outputs.js';
import { STILL_DITHER_GLSL } from '../core/targets/dialects/dither.js';
import { isSeeThrough, refracts } from '../core/targets/ending.js';
import type { GlslText, ShaderText } from '../core/targets/glsl.js';
import { HAZE_GLSL } from './haze.js';
import { replaceChunk, withLight } from './shading.js';
import type { ProgramState } from './programState.js';
import { FINITE_GLSL, callOf, declareVarying, holesOf, shaderParts, type ShaderParts } from '../core/targets/glslPair.js';

/** Radiance is held here before the half-float picture, whose largest number is 65504. */
export const BRIGHTEST = '60000.0';

export const SIDES: Record<Finish['sides'], Side> = { front: FrontSide, back: BackSide, both: DoubleSide };

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
    finish.alphaMode,
  ];
  return textHash(parts.join('\n')) + textHash(parts.reverse().join('\n'));
};

const has = (stage: ShaderText, name: OutputName) => stage.outputs.includes(name);
export const functions = (text: GlslText, stage: ShaderText) =>
  [text.block, stage.library, stage.code].filter(Boolean).join('\n\n');
export const declare = (word: 'in' | 'out' | 'attribute', list: readonly string[]) =>
  list.map((l) => (word === 'attribute' ? `${word} ${l};` : declareVarying(word, l))).join('\n');

export const HEAD = 'precision highp float;\nprecision highp int;';

/** An output as a renderer takes it. */
function held(name: OutputName): string {
  const ends = outputRecord(name).held;
  return ends ? `clamp(s.${name}, ${ends.map((end) => end.toFixed(1)).join(', ')})` : `s.${name}`;
}

/** The statements that leave fragments out, for a finish with holes. */
export const holes = (finish: Finish, fragment: ShaderText): string => holesOf(fragment.outputs, finish, 'alphaCutoff');

/** What is seen of the surface and of what lies behind it. */
function seeThrough(finish: Finish, fragment: ShaderText, own: string): { light: string; alpha: string } {
  // What is added to what is behind it brings no haze of its own: that is there already.
  const light = `${finish.alphaMode === 'add' ? 'dimmedByHaze' : 'inHaze'}(${own}, cameraPosition, seenWorld)`;
  if (!isSeeThrough(finish)) return { light, alpha: '1.0' };
  const alpha = has(fragment, 'opacity') ? 'clamp(s.opacity, 0.0, 1.0)' : '1.0';
  if (!refracts(finish, fragment.outputs)) return { light, alpha };
  // What is seen through it is looked up aside, so nothing is left to blend with.
  const rough = has(fragment, 'roughness') ? held('roughness') : '0.0';
  return { light: `mix(sceneBehind(s.refraction, ${rough}), ${light}, ${alpha})`, alpha: '1.0' };
}
export const addedTo = (text: GlslText, finish: Finish) => ({
  varyings: finish.alphaMode === 'dither' ? (['seenPosition', 'seenWorld'] as const) : (['seenWorld'] as const),
  behind: refracts(finish, text.fragment.outputs),
});

/** What the program reads of the mesh, beside position and normal. */
export const attributesOf = (text: GlslText): readonly string[] =>
  shaderParts(text).attributes.map((a) => a.slice(a.lastIndexOf(' ') + 1));

/** What is drawn for its back faces alone is drawn turned round: there the graphics card takes them for front ones. */
export const SIDE_GLSL = 'float side = (gl_FrontFacing ? 1.0 : -1.0) * winding;';

export function effectMaterial(text: GlslText, finish: Finish, state: ProgramState): Material {
  const material = finish.lighting === 'unlit' ? unlit(text, finish, state) : lit(text, finish, state);
  material.side = SIDES[finish.sides];
  // Whatever is seen of it casts: a sheet that faces the light too.
  material.shadowSide = DoubleSide;
  material.depthWrite = finish.writesDepth;
  if (isSeeThrough(finish)) {
    material.transparent = true;
    // Back faces first, then front ones.
    material.forceSinglePass = false;
    material.blending = finish.alphaMode === 'add' ? AdditiveBlending : NormalBlending;
  }
  return material;
}

/** The vertex shader of an effect that is drawn as it is. */
export const vertexShaderOf = (text: GlslText, parts: ShaderParts): string => `${HEAD}
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
in vec3 position;
in vec3 normal;
${declare('in', parts.attributes)}
${declare('out', parts.varyings)}
${parts.vertexLibrary}
${text.vertex ? functions(text, text.vertex) : ''}
void main() {
  ${parts.vertexBody}
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(movedPosition, 1.0);
}`;

function unlit(text: GlslText, finish: Finish, state: ProgramState): RawShaderMaterial {
  const { fragment } = text;
  const emission = has(fragment, 'emission') ? 's.emission' : 'vec3(0.0)';
  const base = has(fragment, 'baseColour') ? 's.baseColour' : 'vec3(0.0)';
  const shown = seeThrough(finish, fragment, `clamp(light, 0.0, ${BRIGHTEST})`);
  const parts = shaderParts(text, addedTo(text, finish));
  const { varyings, sceneText, usesEye } = parts;
  const material: RawShaderMaterial = new RawShaderMaterial({
    glslVersion: GLSL3,
    uniforms: {
      ...state.sceneUniforms(isSeeThrough(finish)),
      ...state.imageUniforms(text),
      alphaCutoff: { value: finish.alphaCutoff },
      // Looked up at each of the two passes that a see-through surface of two sides is drawn in.
      winding: {
        get value() {
          return material.side === BackSide ? -1 : 1;
        },
      },
    },
    vertexShader: vertexShaderOf(text, parts),
    fragmentShader: `${HEAD}
${declare('in', varyings)}
out vec4 colour;
uniform float alphaCutoff;
uniform float sampleIndex;
uniform float winding;
${finish.alphaMode === 'dither' ? STILL_DITHER_GLSL : ''}
uniform vec3 cameraPosition;
${usesEye ? 'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;' : ''}
${HAZE_GLSL}
${sceneText}
${functions(text, fragment)}
${FINITE_GLSL}
void main() {
  ${SIDE_GLSL}
  Surface s = ${callOf(fragment, 'surface')};
  ${holes(finish, fragment)}
  vec3 light = ${emission} + ${base};
  colour = isFinite(light) ? vec4(${shown.light}, ${shown.alpha}) : vec4(notFiniteMark(gl_FragCoord.xy), 1.0);
}`,
  });
  Object.defineProperty(material, 'uniformsNeedUpdate', { get: () => material.transparent, set: () => undefined });
  return material;
}

/** What stands somewhere else than a mesh has it, and covers less: pieces of GLSL for a lit material. */
export interface Sheets {
  /** Tells its programs apart. */
  readonly key: string;
  readonly uniforms: Readonly<Record<string, { value: unknown }>>;
  /** Its share of what is covered looks at what lies behind. */
  readonly behind: boolean;
  /** Declarations, then statements that set `position`, `normal` and `uv`, in the vertex shader. */
  readonly stands: string;
  readonly place: string;
  /** Declarations of the fragment shader; the share of a fragment that is covered; its normal, as the eye has it. */
  readonly seen: string;
  readonly fill: string;
  readonly normal: string;
}

/** Normals and gleams of what stands on sheets. */
function standOn(shader: WebGLProgramParametersWithUniforms, { normal }: Sheets): void {
  replaceChunk(shader, 'fragmentShader', 'normal_fragment_maps', (c) => `${c}\n  normal = ${normal};`);
  // As dust is.
  replaceChunk(
    shader,
    'fragmentShader',
    'lights_physical_fragment',
    (c) => `${c}\n  material.specularColor = material.specularColorBlended = vec3(0.0);\n  material.specularF90 = 0.0;`,
  );
}

/** @param sheets what it is drawn on, where that is no mesh; then it is matt */
export function lit(text: GlslText, finish: Finish, state: ProgramState, sheets: Sheets | null = null): MeshStandardMaterial {
  const key = `${programKey(text, finish)}${sheets?.key ?? ''}`;
  const { fragment, vertex } = text;
  const material = new MeshStandardMaterial({ color: 0x808080, roughness: 0.6, metalness: 0 });
  const shown = seeThrough(finish, fragment, `min(outgoingLight, vec3(${BRIGHTEST}))`);
  material.customProgramCacheKey = () => key;
  const { varyings, attributes, vertexLibrary, vertexBody, sceneText, usesEye } = shaderParts(text, {
    ...addedTo(text, finish),
    ...(sheets?.behind ? { behind: true } : {}),
  });
  // three declares uv itself, where a texture wants it; nothing here does.
  material.onBeforeCompile = (shader: WebGLProgramParametersWithUniforms) => {
    Object.assign(shader.uniforms, state.sceneUniforms(isSeeThrough(finish)), state.imageUniforms(text), {
      alphaCutoff: { value: finish.alphaCutoff },
      ...sheets?.uniforms,
    });
    const replace = (stage: 'vertexShader' | 'fragmentShader', chunk: string, make: (chunk: string) => string) =>
      replaceChunk(shader, stage, chunk, make);
    withLight(shader, { own: 'ownPlace', gleams: sheets === null });
    replace(
      'vertexShader',
      'common',
      (c) =>
        `${c}\n${declare(
          'attribute',
          attributes.filter((a) => a !== 'vec2 uv' && sheets === null),
        )}\n${declare('out', varyings)}\nflat out vec3 ownPlace;\n${sheets?.stands ?? ''}\n${vertexLibrary}\n${vertex ? functions(text, vertex) : ''}`,
    );
    replace(
      'vertexShader',
      'beginnormal_vertex',
      () => `${sheets?.place ?? ''}\n${vertexBody}\nownPlace = modelMatrix[3].xyz;\nvec3 objectNormal = movedNormal;`,
    );
    replace('vertexShader', 'begin_vertex', () => 'vec3 transformed = movedPosition;');
    replace(
      'fragmentShader',
      'common',
      (c) =>
        `${c}\n#ifdef FLIP_SIDED\n#define winding -1.0\n#else\n#define winding 1.0\n#endif\nuniform float alphaCutoff;\nuniform float sampleIndex;\n${finish.alphaMode === 'dither' ? STILL_DITHER_GLSL : ''}\n${usesEye ? 'uniform mat4 modelMatrix;' : ''}\n${declare('in', varyings)}\nflat in vec3 ownPlace;\n${sheets?.seen ?? ''}\n${sceneText}\n${functions(text, fragment)}\n${FINITE_GLSL}`,
    );
    replace(
      'fragmentShader',
      'color_fragment',
      (c) => `${c}
  ${SIDE_GLSL}
  Surface s = ${callOf(fragment, 'surface')};
  ${holes(finish, fragment)}
  bool sound = true;
  ${isSeeThrough(finish) && has(fragment, 'opacity') ? `diffuseColor.a = ${held('opacity')};` : ''}
  ${has(fragment, 'baseColour') ? `sound = sound && isFinite(s.baseColour);\n  diffuseColor.rgb = ${held('baseColour')};` : ''}
  ${has(fragment, 'emission') ? 'sound = sound && isFinite(s.emission);' : ''}`,
    );
    const set = (chunk: string, name: OutputName, statement: string) => {
      if (has(fragment, name))
        replace('fragmentShader', chunk, (c) => `${c}\n  sound = sound && isFinite(s.${name});\n  ${statement}`);
    };
    set('roughnessmap_fragment', 'roughness', `roughnessFactor = ${held('roughness')};`);
    set('metalnessmap_fragment', 'metalness', `metalnessFactor = ${held('metalness')};`);
    set('normal_fragment_maps', 'normal', 'normal = normalize((viewMatrix * vec4(s.normal, 0.0)).xyz);');
    set('emissivemap_fragment', 'emission', `totalEmissiveRadiance = clamp(s.emission, 0.0, ${BRIGHTEST});`);
    set(
      'lights_physical_fragment',
      'reflectance',
      `material.specularColor = vec3(${held('reflectance')});\n  material.specularColorBlended = mix(material.specularColor, diffuseColor.rgb, metalnessFactor);`,
    );
    if (sheets) standOn(shader, sheets);
    set('aomap_fragment', 'occlusion', `reflectedLight.indirectDiffuse *= ${held('occlusion')};`);
    replace(
      'fragmentShader',
      'opaque_fragment',
      (c) =>
        `outgoingLight = sound ? ${shown.light} : notFiniteMark(gl_FragCoord.xy);\n  ${shown.alpha === '1.0' ? 'diffuseColor.a = 1.0;' : ''}\n  ${sheets ? `diffuseColor.a *= ${sheets.fill};` : ''}\n  ${c}`,
    );
  };
  return material;
}
