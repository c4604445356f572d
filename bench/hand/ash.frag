#version 300 es
// Drifting ash: two noises of position, one churned by time, hardened and mixed, over a dark ember colour.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 vPosition;
layout(location = 0) out vec4 colourOpacity;
#include "kernels"
void main() {
  float time = k[0].x;
  float coarse = gradientNoise3(vPosition * 2.5, lowbias32(3u));
  float fine = gradientNoise4(vec4(vPosition * 9.0, time * 0.5), lowbias32(8u));
  float mask = smoothstep(-0.1, 0.35, mix(coarse, fine, 0.3));
  vec3 colour = mix(vec3(0.02, 0.015, 0.015), vec3(1.0, 0.35, 0.08) * 6.0, mask);
  colourOpacity = vec4(colour, 1.0);
}
