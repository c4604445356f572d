#version 300 es
// Deep and shallow hue by depth, two moving heights as one normal, foam torn by a third noise where it is shallow.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
in vec3 seenNormal;
in vec3 seenWorld;
in vec3 seenView;
layout(location = 0) out vec4 emissionOpacity;
layout(location = 1) out vec4 baseColourMetalness;
layout(location = 2) out vec4 normalRoughness;
layout(location = 3) out vec4 reflectanceOcclusion;
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform vec3 cameraPosition;
#include "kernels"
#include "scene"
vec3 tilted(vec3 n, vec3 px, vec3 py, float hx, float hy) {
  vec3 first = cross(py, n);
  float area = dot(px, first);
  vec3 t = n - (area == 0.0 ? vec3(0.0) : (first * hx + cross(n, px) * hy) / area);
  float size = length(t);
  return size == 0.0 ? vec3(0.0) : t / size;
}
void main() {
  vec3 n = normalize(seenNormal) * (gl_FrontFacing ? 1.0 : -1.0);
  float depth = (cameraPosition - seenView).y - pointBehind().y;
  float deepness = 1.0 - exp2Kernel(depth * (-2.2 * 1.442695 / 0.17));
  float t = k[0].x;
  float rest = k[0].y;
  vec2 at = seenWorld.xz;
  vec3 px = dFdx(seenWorld);
  vec3 py = dFdy(seenWorld);
  vec2 slow = vec2(-0.02, -0.015) * 7.0;
  vec2 quick = vec2(0.05, -0.035);
  n = tilted(n, px, py,
    0.03 * fbm2x2FarXYSlope10000000(at * 7.0, 2.0, 2.0, 2.0, 0.5, slow, t, rest, px.xz * 7.0),
    0.03 * fbm2x2FarXYSlope10000000(at * 7.0, 2.0, 2.0, 2.0, 0.5, slow, t, rest, py.xz * 7.0));
  n = tilted(n, px, py,
    0.01 * fbm2x2FarXYSlope10000000(at * 16.0, 8.0, 2.0, 2.0, 0.5, quick * 16.0, t, rest, px.xz * 16.0),
    0.01 * fbm2x2FarXYSlope10000000(at * 16.0, 8.0, 2.0, 2.0, 0.5, quick * 16.0, t, rest, py.xz * 16.0));
  float torn = fbm2x3FarXY(at * 24.0, 5.0, 3.0, 2.0, 0.5, quick * 24.0, t, rest) * 0.5 + 0.5;
  float edge = mix(-0.2, 1.0, clamp(depth / 0.03, 0.0, 1.0));
  float foam = depth > 0.03 ? 0.0 : smoothstep(edge, edge + 0.2, torn);
  vec3 tint = mix(vec3(0.16, 0.5, 0.46), vec3(0.006, 0.11, 0.15), deepness);
  float far = max(depth, 0.0);
  vec2 aside = (mat3(viewMatrix) * (n * (far * -0.55))).xy / (depthHere() + far) * lensHere();
  float rough = mix(0.06, 0.8, foam);
  float cover = max(deepness * 0.72, foam * 0.92);
  emissionOpacity = vec4(sceneBehind(aside, clamp(rough, 0.0, 1.0)) * (1.0 - clamp(cover, 0.0, 1.0)), cover);
  baseColourMetalness = vec4(mix(tint, vec3(0.78, 0.84, 0.82), foam), 0.0);
  normalRoughness = vec4(n, rough);
  reflectanceOcclusion = vec4(0.04, 0.85, 0.0, 0.0);
}
