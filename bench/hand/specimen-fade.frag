#version 300 es
// Fractal noise against a threshold that a cue moves; what is left, and a rim in the same moving window.
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
// Whole until half a second, gone at 3.4 s and until 3.8 s, whole again at 5.6 s, in and out softly.
float cue(float time) {
  if (time < 3.8) return clamp((time - 0.5) / 2.9, 0.0, 1.0);
  return 1.0 - cubicBezier(clamp((time - 3.8) / 1.8, 0.0, 1.0), vec4(0.42, 0.0, 0.58, 1.0));
}
void main() {
  float grain = fbm3x4(seenPosition * 3.2, 7.0, 4.0, 2.0, 0.5);
  float order = clamp((grain + 0.55) / 1.1, 0.0, 1.0);
  float threshold = mix(-0.09001, 1.00001, cue(k[0].x));
  float inner = threshold + 0.02;
  float keep = smoothstep(threshold, inner, order);
  if (keep <= scatter(seenPosition)) discard;
  float rim = keep * (1.0 - smoothstep(inner, inner + 0.07, order));
  vec3 skin = mix(vec3(0.16, 0.09, 0.14), vec3(0.36, 0.25, 0.3), smoothstep(0.3, 0.7, order));
  emissionOpacity = vec4(vec3(0.2, 0.85, 1.0) * (rim * 4.5), keep);
  baseColourMetalness = vec4(skin, 0.0);
  normalRoughness = vec4(normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0), 0.55);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
