#version 300 es
// Fractal noise over a crooked place that rises, hardened to specks; hot below, cooler above.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenPosition;
in vec3 seenNormal;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
#include "kernels"
#include "dither"
const float RISE = 0.55 * 0.62;
void main() {
  vec3 rest = seenPosition * vec3(1.0, 0.62, 1.0);
  // Both noises are lifted by one clock; what lattice they have come to is counted.
  vec2 laps = lapCount(-RISE * 3.4, k[0].x, k[0].y);
  uint far = uint(int(laps.x)) * 65536u + uint(int(laps.y));
  vec3 at = rest * 3.4 + vec3(0.0, lapFraction(-RISE * 3.4, k[0].x, k[0].y), 0.0);
  vec3 push = vec3(gradientNoise3FarY(at, lowbias32(5u), far), gradientNoise3FarY(at, lowbias32(5u + 0x9e3779b9u), far), gradientNoise3FarY(at, lowbias32(5u + 0x3c6ef372u), far));
  float grain = fbm3x3FarY((rest + push * 0.16) * 13.0, floor(k[0].z * 90.0), 3.0, 2.0, 0.55, -RISE * 13.0, k[0].x, k[0].y);
  float along = clamp((seenPosition.y + 0.95) / 1.9, 0.0, 1.0);
  float specks = clamp((grain - mix(0.2, 0.5, along)) / 0.12, 0.0, 1.0);
  float mask = specks * smoothstep(0.0, 0.05, along) * (1.0 - smoothstep(0.8, 1.0, along));
  if (mask <= scatter(seenPosition)) discard;
  vec3 heat = mix(vec3(1.25, 0.36, 0.06) * 11.0, vec3(0.9, 0.1, 0.03) * 2.2, along);
  emissionOpacity = vec4(heat * (mask * mask), mask);
  baseColourMetalness = vec4(0.014, 0.012, 0.012, 0.0);
  normalRoughness = vec4(normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0), 0.6);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
