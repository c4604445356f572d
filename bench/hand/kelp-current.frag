#version 300 es
// Stipe to blade to tip, by paint.
precision highp float;
precision highp int;
centroid in vec4 seenColour;
in vec3 seenNormal;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
void main() {
  float tip = seenColour.r * seenColour.r * 0.6;
  vec3 leaf = mix(vec3(0.05, 0.055, 0.018), vec3(0.17, 0.21, 0.035), seenColour.g);
  vec3 skin = mix(leaf, vec3(0.45, 0.48, 0.1), tip) * (0.75 + 0.5 * seenColour.b);
  emissionOpacity = vec4(0.0, 0.0, 0.0, 1.0);
  baseColourMetalness = vec4(skin, 0.0);
  normalRoughness = vec4(normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0), 0.5);
  reflectanceOcclusion = vec4(0.04, 1.0, 0.0, 0.0);
}
