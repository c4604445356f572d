#version 300 es
// Wires of a mesh as the floor of a facing weight, hardened near 1, tinted by height, a stripe going over it.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenEdgeQuad;
in vec3 seenNormal;
in vec3 seenView;
in vec3 seenPosition;
layout(location = 0) out vec4 colourOpacity;
#include "kernels"
#include "scene"
void main() {
  float line = 1.0 - smoothstep(0.45, 1.05, nearestEdge(seenEdgeQuad, true));
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float away = 1.0 - clamp(dot(n, normalize(seenView)), 0.0, 1.0);
  float weight = line + (1.0 - line) * away * away;
  float wire = clamp((weight - 0.82) / 0.18, 0.0, 1.0);
  float high = clamp((seenPosition.y - 0.02) / 0.28, 0.0, 1.0);
  vec3 tint = mix(vec3(0.04, 0.3, 0.85), vec3(0.45, 1.0, 0.75), high);
  // The stripe and its copies a lap away; never narrower than a pixel, or it would sparkle from afar.
  float along = (seenPosition.x + 0.75) / 1.5;
  float off = abs(fract(along - lapFraction(0.16, k[0].x, k[0].y) + 0.5) - 0.5);
  float pixel = max(length(vec2(dFdx(along), dFdy(along))), 0.12);
  float sweep = clamp((0.0075 - off) / pixel + 0.5, 0.0, 1.0);
  colourOpacity = vec4(tint * (wire * (1.0 + sweep * 1.6) * 2.6), wire);
}
