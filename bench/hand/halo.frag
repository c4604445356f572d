#version 300 es
// A rim in two hues that breathes: Fresnel by width, a wave, hue times intensity.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 vNormal;
in vec3 vView;
layout(location = 0) out vec4 colourOpacity;
#include "kernels"
void main() {
  float time = k[0].x;
  vec3 n = normalize(vNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float facing = clamp(dot(n, normalize(vView)), 0.0, 1.0);
  float rim = power(1.0 - facing, mix(10.0, 0.5, 0.6));
  float breath = mix(0.55, 1.0, sineTurns(0.75 * time) * 0.5 + 0.5);
  vec3 hue = mix(vec3(0.1, 0.25, 1.0), vec3(0.5, 0.9, 1.0), rim);
  colourOpacity = vec4(hue * (rim * breath * 14.0), 1.0);
}
