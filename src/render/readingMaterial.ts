/** Draws the places of a prop as numbers: as it stands, or as an effect moves it. */
import { DoubleSide, GLSL3, RawShaderMaterial } from 'three';
import type { GlslText } from '../core/targets/glsl.js';
import { shaderParts } from '../core/targets/glslPair.js';
import { HEAD, declare, functions } from './effectMaterial.js';
import type { ProgramState } from './programState.js';

const FRAGMENT = `${HEAD}
in vec3 vPosition;
in vec3 vObjectNormal;
in vec2 vUv;
in vec3 vWorld;
in vec4 vColour;
in vec2 vUv1;
uniform bool unwrap;
uniform bool second;
layout(location = 0) out vec4 positionMask;
layout(location = 1) out vec4 normalU;
layout(location = 2) out vec4 worldV;
layout(location = 3) out vec4 paint;
void main() {
  // Back faces are half there: so the mask tells which side is seen.
  positionMask = vec4(vPosition, gl_FrontFacing || unwrap ? 1.0 : 0.5);
  normalU = vec4(normalize(vObjectNormal), vUv.x);
  worldV = vec4(vWorld, vUv.y);
  paint = second ? vec4(vUv1, 0.0, 0.0) : vColour;
}`;

/** @param text the program that moves the vertices; null for a mesh that stands still */
export function readingMaterial(text: GlslText | null, state: ProgramState): RawShaderMaterial {
  const bare = text && { ...text, fragment: { ...text.fragment, leaves: [], code: '', library: '' } };
  const parts = bare && shaderParts(bare);
  const own = (parts?.attributes ?? []).filter((a) => !['vec2 uv', 'vec2 uv1', 'vec4 vertexColour'].includes(a));
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    uniforms: {
      unwrap: { value: false },
      second: { value: false },
      ...(text ? { ...state.sceneUniforms(false), ...state.imageUniforms(text) } : {}),
    },
    side: DoubleSide,
    vertexShader: `${HEAD}
in vec3 position;
in vec3 normal;
in vec2 uv;
in vec2 uv1;
in vec4 vertexColour;
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
uniform bool unwrap;
${declare('in', own)}
out vec3 vPosition;
out vec3 vObjectNormal;
out vec2 vUv;
out vec3 vWorld;
out vec4 vColour;
out vec2 vUv1;
${parts?.vertexLibrary ?? ''}
${text?.vertex ? functions(text, text.vertex) : ''}
void main() {
  ${parts?.vertexBody ?? 'vec3 movedPosition = position;\n  vec3 movedNormal = normal;'}
  vPosition = position;
  vObjectNormal = movedNormal;
  vUv = uv;
  vColour = vertexColour;
  vUv1 = uv1;
  vWorld = (modelMatrix * vec4(movedPosition, 1.0)).xyz;
  gl_Position = unwrap ? vec4(uv * 2.0 - 1.0, 0.0, 1.0) : projectionMatrix * viewMatrix * vec4(vWorld, 1.0);
}`,
    fragmentShader: FRAGMENT,
  });
}
