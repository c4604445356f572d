#version 300 es
// Water by the distance in turning cells; their lines once more where light falls on the floor.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenWorld;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform vec3 cameraPosition;
#include "kernels"
#include "scene"
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float turns = lapFraction(0.22, k[0].x, k[0].y);
  uint seed = lowbias32(3u);
  vec2 at = seenWorld.xz * 11.0;
  float near = cells2straightCircling(at, seed, 1.0, turns).x;
  float square = near * near;
  float lines = square * square;
  float below = cells2straightCircling(pointBehind().xz * 11.0, seed, 1.0, turns).x;
  float shone = below * below;
  shone *= shone * below;
  // The normal of a height of 6 mm: its slope on the screen, taken back onto the surface.
  vec3 px = dFdx(seenWorld);
  vec3 py = dFdy(seenWorld);
  float steep = 4.0 * 0.006 * near * square;
  float hx = steep * cells2straightCirclingSlope1000(at, seed, 1.0, turns, px.xz * 11.0).x;
  float hy = steep * cells2straightCirclingSlope1000(at, seed, 1.0, turns, py.xz * 11.0).x;
  vec3 first = cross(py, n);
  float area = dot(px, first);
  vec3 tilted = n - (area == 0.0 ? vec3(0.0) : (first * hx + cross(n, px) * hy) / area);
  float size = length(tilted);
  tilted = size == 0.0 ? vec3(0.0) : tilted / size;
  vec3 light = vec3(0.3, 0.75, 0.85);
  float far = max(depthUnder() - depthHere(), 0.0);
  vec2 aside = (mat3(viewMatrix) * (tilted * (far * -0.25))).xy / (depthHere() + far) * lensHere();
  float cover = clamp(0.3 + lines * 0.5, 0.0, 1.0);
  emissionOpacity = vec4(mix(sceneBehind(aside, 0.08), light * (shone * 0.7), cover), cover);
  baseColourMetalness = vec4(vec3(0.012, 0.05, 0.07) + light * lines, 0.0);
  normalRoughness = vec4(tilted, 0.08);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
