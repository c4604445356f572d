#version 300 es
// Water by its depth: hue, cover, and a calm and a lively surface that one broad noise mixes.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenWorld;
in vec3 seenView;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform vec3 cameraPosition;
#include "kernels"
#include "scene"
vec3 unitOf(vec3 v) {
  float size = length(v);
  return size == 0.0 ? vec3(0.0) : v / size;
}
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float depth = (cameraPosition - seenView).y - pointBehind().y;
  float t = k[0].x;
  float rest = k[0].y;
  vec2 at = seenWorld.xz;
  vec2 laps = lapCount(0.05, t, rest);
  uint far = uint(int(laps.x)) * 65536u + uint(int(laps.y));
  float broad = gradientNoise3FarZ(vec3(at * 0.32, lapFraction(0.05, t, rest)), lowbias32(5u), far);
  float wind = clamp(broad + 0.5, 0.0, 1.0);
  // Both heights' slopes are taken back onto the surface by the same two directions.
  vec3 px = dFdx(seenWorld);
  vec3 py = dFdy(seenWorld);
  vec3 first = cross(py, n);
  vec3 second = cross(n, px);
  float area = dot(px, first);
  vec2 slow = vec2(-0.07, -0.1) * 1.3;
  vec2 quick = vec2(0.16, -0.22) * 2.3;
  float cx = 0.035 * fbm2x2FarXYSlope10000000(at * 1.3, 2.0, 2.0, 2.0, 0.5, slow, t, rest, px.xz * 1.3);
  float cy = 0.035 * fbm2x2FarXYSlope10000000(at * 1.3, 2.0, 2.0, 2.0, 0.5, slow, t, rest, py.xz * 1.3);
  float lx = 0.045 * ridged2x3FarXYSlope10000000(at * 2.3, 9.0, 3.0, 2.0, 0.5, quick, t, rest, px.xz * 2.3);
  float ly = 0.045 * ridged2x3FarXYSlope10000000(at * 2.3, 9.0, 3.0, 2.0, 0.5, quick, t, rest, py.xz * 2.3);
  vec3 calm = unitOf(n - (area == 0.0 ? vec3(0.0) : (first * cx + second * cy) / area));
  vec3 lively = unitOf(n - (area == 0.0 ? vec3(0.0) : (first * lx + second * ly) / area));
  float deepness = power(clamp(depth / 0.95, 0.0, 1.0), 0.8);
  vec3 tint = mix(vec3(0.2, 0.52, 0.44), vec3(0.012, 0.085, 0.11), deepness) * (1.0 + 0.22 * (wind - 0.5));
  vec3 tip = unitOf(mix(calm, lively, wind));
  float rough = mix(0.1, 0.26, wind);
  float under = max(depth, 0.0);
  vec2 aside = (mat3(viewMatrix) * (tip * (under * -0.3))).xy / (depthHere() + under) * lensHere();
  float cover = mix(0.12, 0.82, clamp(depth / 0.34, 0.0, 1.0));
  emissionOpacity = vec4(sceneBehind(aside, rough) * (1.0 - cover), cover);
  baseColourMetalness = vec4(tint, 0.1);
  normalRoughness = vec4(tip, rough);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
