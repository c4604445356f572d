#version 300 es
// One picture of normals at two tilings, each drifting its own way, over nearly black water.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenWorld;
in vec2 seenUv;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
#include "kernels"
vec3 unitOf(vec3 v) {
  float size = length(v);
  return size == 0.0 ? vec3(0.0) : v / size;
}
vec3 look(vec2 at, vec2 dx, vec2 dy) {
  float texels = max(max(length(dx), length(dy)), 1.0);
  return textureLod(PICTURE, vec2(at.x, 1.0 - at.y), log2Kernel(texels)).xyz * 2.0 - 1.0;
}
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float t = k[0].x;
  float rest = k[0].y;
  vec3 px = dFdx(seenWorld);
  vec3 py = dFdy(seenWorld);
  vec2 ux = dFdx(seenUv);
  vec2 uy = dFdy(seenUv);
  float area = ux.x * uy.y - uy.x * ux.y;
  vec3 right = unitOf((px * uy.y - py * ux.y) * sign(area));
  vec3 up = unitOf((py * ux.x - px * uy.x) * sign(area));
  vec2 at = seenWorld.xz;
  vec2 fine = at / 4.6 + vec2(lapFraction(-0.34 / 4.6, t, rest), lapFraction(-0.2 / 4.6, t, rest));
  vec2 broad = at / 55.0 + vec2(lapFraction(0.5 / 55.0, t, rest), lapFraction(-0.85 / 55.0, t, rest));
  vec3 a = look(fine, px.xz * (256.0 / 4.6), py.xz * (256.0 / 4.6));
  n = unitOf(right * (a.x * 0.4) + up * (a.y * 0.4) + n * a.z);
  vec3 b = look(broad, px.xz * (256.0 / 55.0), py.xz * (256.0 / 55.0));
  n = unitOf(right * (b.x * 0.6) + up * (b.y * 0.6) + n * b.z);
  emissionOpacity = vec4(0.0, 0.0, 0.0, 1.0);
  baseColourMetalness = vec4(0.006, 0.014, 0.018, 0.08);
  normalRoughness = vec4(n, 0.2);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
