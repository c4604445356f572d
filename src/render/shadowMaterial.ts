/** What draws an effect into a shadow: the surface where it has moved to, with the holes it has. */
import { GLSL3, RawShaderMaterial } from 'three';
import type { Finish } from '../core/effect/schema.js';
import type { GlslText } from '../core/targets/glsl.js';
import { callOf, shaderParts } from '../core/targets/glslPair.js';
import { STILL_DITHER_GLSL } from '../core/targets/dialects/dither.js';
import { HEAD, SIDE_GLSL, addedTo, declare, functions, holes } from './effectMaterial.js';
import type { ProgramState } from './programState.js';

const AS_THE_EYE = '#define viewMatrix eyeMatrix\n#define cameraPosition eyePosition';

/** @returns null where the mesh as it is casts the right shadow */
export function shadowMaterial(text: GlslText, finish: Finish, state: ProgramState): RawShaderMaterial | null {
  const { fragment, vertex } = text;
  const hole = holes(finish, fragment);
  if (!hole && !vertex) return null;
  const whole: GlslText = hole ? text : { ...text, fragment: { ...fragment, leaves: [], code: '', library: '' } };
  const parts = shaderParts(whole, hole ? addedTo(text, finish) : {});
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    uniforms: {
      ...state.sceneUniforms(false),
      ...state.eyeUniforms,
      ...state.imageUniforms(text),
      alphaCutoff: { value: finish.alphaCutoff },
    },
    vertexShader: `${HEAD}
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform mat4 eyeMatrix;
uniform vec3 eyePosition;
in vec3 position;
in vec3 normal;
${declare('in', parts.attributes)}
${declare('out', parts.varyings)}
vec4 fromTheLight(vec3 p) { return projectionMatrix * viewMatrix * modelMatrix * vec4(p, 1.0); }
${AS_THE_EYE}
${parts.vertexLibrary}
${vertex ? functions(text, vertex) : ''}
void main() {
  ${parts.vertexBody}
  gl_Position = fromTheLight(movedPosition);
}`,
    fragmentShader: `${HEAD}
${AS_THE_EYE}
${declare('in', parts.varyings)}
out vec4 colour;
uniform float alphaCutoff;
uniform float sampleIndex;
const float winding = 1.0;
${hole && finish.alphaMode === 'dither' ? STILL_DITHER_GLSL : ''}
${hole && parts.usesEye ? 'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;\nuniform vec3 cameraPosition;' : ''}
${parts.sceneText}
${hole ? functions(text, fragment) : ''}
void main() {
  ${hole ? `${SIDE_GLSL}\n  Surface s = ${callOf(fragment, 'surface')};\n  ${hole}` : ''}
  colour = vec4(1.0);
}`,
  });
}
