/** Draws the places of a prop as numbers: as it stands, or as an effect moves it. */
import { DoubleSide, GLSL3, RawShaderMaterial } from 'three';
import type { GlslText } from '../core/targets/glsl.js';
import { shaderParts } from '../core/targets/glslPair.js';
import { HEAD, SCENE, declare, functions, imageUniforms } from './effectMaterial.js';

const FRAGMENT = `${HEAD}
in vec3 vPosition;
in vec3 vObjectNormal;
in vec2 vUv;
in vec3 vWorld;
in vec4 vColour;
layout(location = 0) out vec4 positionMask;
layout(location = 1) out vec4 normalU;
layout(location = 2) out vec4 worldV;
layout(location = 3) out vec4 paint;
void main() {
  positionMask = vec4(vPosition, 1.0);
  normalU = vec4(normalize(vObjectNormal), vUv.x);
  worldV = vec4(vWorld, vUv.y);
  paint = vColour;
}`;

/** @param text the program that moves the vertices; null for a mesh that stands still */
export function readingMaterial(text: GlslText | null): RawShaderMaterial {
  const bare = text && { ...text, fragment: { ...text.fragment, leaves: [], code: '', library: '' } };
  const parts = bare && shaderParts(bare);
  const own = (parts?.attributes ?? []).filter((a) => a !== 'vec2 uv' && a !== 'vec4 vertexColour');
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    uniforms: { unwrap: { value: false }, ...(text ? { ...SCENE, ...imageUniforms(text) } : {}) },
    side: DoubleSide,
    vertexShader: `${HEAD}
in vec3 position;
in vec3 normal;
in vec2 uv;
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
${parts?.vertexLibrary ?? ''}
${text?.vertex ? functions(text, text.vertex) : ''}
void main() {
  ${parts?.vertexBody ?? 'vec3 movedPosition = position;\n  vec3 movedNormal = normal;'}
  vPosition = position;
  vObjectNormal = movedNormal;
  vUv = uv;
  vColour = vertexColour;
  vWorld = (modelMatrix * vec4(movedPosition, 1.0)).xyz;
  gl_Position = unwrap ? vec4(uv * 2.0 - 1.0, 0.0, 1.0) : projectionMatrix * viewMatrix * vec4(vWorld, 1.0);
}`,
    fragmentShader: FRAGMENT,
  });
}
