#version 300 es
// A rim or a line where it touches, or a net of six-sided tiles that a stripe sweeps over; two hues by the rim.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenView;
in vec3 seenPosition;
layout(location = 0) out vec4 colourOpacity;
#include "kernels"
#include "scene"
const vec2 LATTICE = vec2(1.0, 1.7320508);
const vec2 SLANT = vec2(0.5, 0.8660254);
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float away = 1.0 - clamp(dot(n, normalize(seenView)), 0.0, 1.0);
  float rim = power(away, 2.2);
  float touch = 1.0 - clamp((depthUnder() - depthHere()) / 0.16, 0.0, 1.0);
  // The nearer of two lattices of middles; a side lies along x or along 60 degrees to it.
  vec2 p = seenPosition.xz * 6.0;
  vec2 q = p / LATTICE;
  vec2 one = p - floor(q + 0.5) * LATTICE;
  vec2 two = p - (floor(q) + 0.5) * LATTICE;
  vec2 from = dot(one, one) < dot(two, two) ? one : two;
  vec2 near = abs(from);
  float slant = dot(near, SLANT);
  bool straight = near.x > slant;
  vec2 across = sign(from) * (straight ? vec2(1.0, 0.0) : SLANT);
  float centre = 2.0 * max(near.x, slant);
  float pixel = max(2.0 * length(vec2(dot(across, dFdx(p)), dot(across, dFdy(p)))), 1e-6);
  float line = clamp((0.1 - (1.0 - centre)) / pixel + 0.5, 0.0, 1.0);
  // Where a tile is smaller than a pixel, what its lines cover.
  line = mix(line, 0.19, clamp(pixel * 2.0 - 1.0, 0.0, 1.0));
  float x = (seenPosition.x + 1.6) / 3.2;
  float off = abs(fract(x - lapFraction(0.22, k[0].x, k[0].y) + 0.5) - 0.5);
  float stripe = clamp((0.07 - off) / max(length(vec2(dFdx(x), dFdy(x))), 0.12) + 0.5, 0.0, 1.0);
  float cover = max(max(rim, touch), line * stripe * 0.85);
  colourOpacity = vec4(mix(vec3(0.1, 0.55, 0.85), vec3(0.35, 0.3, 1.0), rim) * 2.4, cover);
}
