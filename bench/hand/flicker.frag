#version 300 es
// An organic flicker along a tube: noise of time, held between a floor and a ceiling, times a colour.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec2 vUv;
layout(location = 0) out vec4 colourOpacity;
#include "kernels"
void main() {
  float time = k[0].x;
  float lit = clamp(gradientNoise1(time * 3.0 + 7.0, lowbias32(uint(0))), 0.25, 1.0);
  float ends = smoothstep(0.02, 0.14, vUv.y) * smoothstep(0.02, 0.14, 1.0 - vUv.y);
  vec3 gas = mix(vec3(0.5, 0.18, 0.07), vec3(0.42, 1.0, 0.76), ends);
  colourOpacity = vec4(gas * (lit * 9.0), 1.0);
}
