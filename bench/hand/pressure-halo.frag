#version 300 es
// A rim by width, uneven by a churned noise, in one hue: the same in base colour, emission and opacity.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenView;
in vec3 seenPosition;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
#include "kernels"
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float away = 1.0 - clamp(dot(n, normalize(seenView)), 0.0, 1.0);
  // The churn's laps are counted apart, so that the halo breathes as smoothly after a week as in its first second.
  vec2 laps = lapCount(0.22, k[0].x, k[0].y);
  uint far = uint(int(laps.x)) * 65536u + uint(int(laps.y));
  vec4 place = vec4(seenPosition * 2.6, lapFraction(0.22, k[0].x, k[0].y));
  float uneven = gradientNoise4FarW(place, lowbias32(4u), far);
  float lit = power(away, mix(12.0, 0.8, 0.56)) * (1.0 + uneven * 0.35);
  vec3 tint = vec3(0.12, 0.42, 1.0) * lit;
  emissionOpacity = vec4(tint * 5.0, clamp(lit * 1.1, 0.0, 1.0));
  baseColourMetalness = vec4(tint, 0.0);
  normalRoughness = vec4(n, 0.6);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
