#version 300 es
// A line where it meets the ground and a rim, each less a net of six-sided tiles; one hue, a beat, a lens.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenView;
in vec2 seenUv;
layout(location = 0) out vec4 colourOpacity;
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform vec3 cameraPosition;
#include "kernels"
#include "scene"
const vec2 LATTICE = vec2(1.0, 1.7320508);
const vec2 SLANT = vec2(0.5, 0.8660254);
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float rim = power(1.0 - clamp(dot(n, normalize(seenView)), 0.0, 1.0), 2.6);
  float under = depthUnder() - depthHere();
  float line = smoothstep(0.0, 1.0, (0.14 - under) * 6.5);
  vec2 p = seenUv * vec2(28.0, 7.0);
  vec2 q = p / LATTICE;
  vec2 one = p - floor(q + 0.5) * LATTICE;
  vec2 two = p - (floor(q) + 0.5) * LATTICE;
  vec2 from = dot(one, one) < dot(two, two) ? one : two;
  vec2 near = abs(from);
  float slant = dot(near, SLANT);
  vec2 across = sign(from) * (near.x > slant ? vec2(1.0, 0.0) : SLANT);
  float centre = 2.0 * max(near.x, slant);
  float pixel = max(2.0 * length(vec2(dot(across, dFdx(p)), dot(across, dFdy(p)))), 1e-6);
  float net = clamp((0.16 - (1.0 - centre)) / pixel + 0.5, 0.0, 1.0);
  net = mix(net, 0.2944, clamp(pixel * 2.0 - 1.0, 0.0, 1.0));
  float cover = clamp(max(rim - net * 0.5, line - net * 0.22), 0.03, 1.0);
  float beat = mix(0.8, 1.0, sineTurns(k[0].x * 0.5) * 0.5 + 0.5);
  float far = max(under, 0.0);
  vec2 aside = (mat3(viewMatrix) * (n * (far * -0.12))).xy / (depthHere() + far) * lensHere();
  vec3 own = vec3(0.24, 0.86, 1.0) * (cover * beat * 3.0);
  colourOpacity = vec4(mix(sceneBehind(aside, 0.0), own, clamp(cover, 0.0, 1.0)), 1.0);
}
