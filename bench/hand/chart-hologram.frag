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
void main() {
  float time = k[0].x;
  // Pixels to the nearest side: metres by how much they change from pixel to pixel.
  vec3 sides = seenEdgeQuad / max(vec3(length(vec2(dFdx(seenEdgeQuad.x), dFdy(seenEdgeQuad.x))), length(vec2(dFdx(seenEdgeQuad.y), dFdy(seenEdgeQuad.y))), length(vec2(dFdx(seenEdgeQuad.z), dFdy(seenEdgeQuad.z)))), 1e-12);
  float edge = min(sides.x, min(sides.y, sides.z));
  float line = 1.0 - smoothstep(0.45, 1.05, edge);
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float away = 1.0 - clamp(dot(n, normalize(seenView)), 0.0, 1.0);
  float weight = line + (1.0 - line) * away * away;
  float wire = clamp((weight - 0.82) / 0.18, 0.0, 1.0);
  float high = clamp((seenPosition.y - 0.02) / 0.28, 0.0, 1.0);
  vec3 tint = mix(vec3(0.04, 0.3, 0.85), vec3(0.45, 1.0, 0.75), high);
  float along = (seenPosition.x + 0.75) / 1.5;
  float place = fract(time * 0.16);
  float off = abs(along - place);
  off = min(off, abs(1.0 - off));
  float sweep = 1.0 - smoothstep(0.0075, 0.1275, off);
  colourOpacity = vec4(tint * (wire * (1.0 + sweep * 1.6) * 2.6), wire);
}
