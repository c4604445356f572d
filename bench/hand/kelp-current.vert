#version 300 es
// Two whole sets of waves, one a heading, mixed as the current turns; strongest at the tips.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
in vec3 position;
in vec3 normal;
in vec4 vertexColour;
centroid out vec4 seenColour;
#include "kernels"
const float STRENGTH = 0.42;
const vec4 LENGTH = vec4(2.7, 1.6, 0.95, 0.5);
const vec4 SPEED = vec4(0.62, 0.5, 0.4, 0.55);
const vec4 BIAS = vec4(0.9, 0.85, 0.8, 0.0);
const vec4 AMPLITUDE = vec4(0.6, 0.34, 0.2, 0.16);
const float TURN = 6.2831853;
vec3 current(vec2 heading, vec3 world, vec4 late, vec3 flutter) {
  vec4 turns = dot(heading, world.xz) / LENGTH + late;
  vec4 each = (vec4(sineTurns(turns.x), sineTurns(turns.y), sineTurns(turns.z), sineTurns(turns.w)) + BIAS) * AMPLITUDE;
  float first = each.x + each.y + each.z;
  float gust = max(clamp((first - 1.25) * 2.4, 0.0, 1.0), 0.3 * STRENGTH);
  float push = first + each.w * gust;
  return vec3(heading.x * push, 0.0, heading.y * push) + flutter * (gust * 0.12);
}
void main() {
  vec3 world = (modelMatrix * vec4(position, 1.0)).xyz;
  float lag = position.y * 0.38 + vertexColour.r * 0.5;
  float t = k[0].x;
  float rest = k[0].y;
  vec4 late = SPEED / LENGTH * lag + vec4(lapFraction(-0.62 / 2.7, t, rest), lapFraction(-0.5 / 1.6, t, rest), lapFraction(-0.4 / 0.95, t, rest), lapFraction(-1.1, t, rest));
  vec3 angle = (vec3(5.1, 4.3, 4.7) * world.yxz - vec3(7.3, 5.9, 6.7) * lag) / TURN + vec3(lapFraction(7.3 / TURN, t, rest), lapFraction(5.9 / TURN, t, rest), lapFraction(6.7 / TURN, t, rest));
  vec3 flutter = vec3(sineTurns(angle.x), 0.3 * sineTurns(angle.y), sineTurns(angle.z));
  // 12 and -52 degrees.
  vec3 north = current(vec2(0.9781476, -0.20791169), world, late, flutter);
  vec3 south = current(vec2(0.61566148, 0.78801075), world, late, flutter);
  float turning = sineTurns(lapFraction(0.04, t, rest)) * 0.5 + 0.5;
  vec3 push = mix(north, south, turning);
  // Back into the prop's own space.
  vec3 x = modelMatrix[0].xyz;
  vec3 y = modelMatrix[1].xyz;
  vec3 z = modelMatrix[2].xyz;
  vec3 yz = cross(y, z);
  float volume = dot(x, yz);
  vec3 local = volume == 0.0 ? vec3(0.0) : vec3(dot(yz, push), dot(cross(z, x), push), dot(cross(x, y), push)) / volume;
  float paint = max(vertexColour.r, 0.0);
  vec3 moved = position + local * (paint * sqrt(paint) * 0.95 * STRENGTH);
  seenColour = vertexColour;
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(moved, 1.0);
}
