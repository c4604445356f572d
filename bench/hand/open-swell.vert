#version 300 es
// Four deep-water waves that die away with distance from the middle; the normal follows.
precision highp float;
precision highp int;
uniform Effect { vec4 k[1]; };
uniform mat4 modelMatrix;
uniform mat4 viewMatrix;
uniform mat4 projectionMatrix;
uniform vec3 cameraPosition;
in vec3 position;
in vec3 normal;
in vec2 uv;
out vec3 seenNormal;
out vec3 seenWorld;
out vec2 seenUv;
#include "along"
#include "kernels"
// Headings 80, 112, 52 and 140 degrees; lengths 13, 7.4, 4.1 and 2.3 m; w^2 = g k.
const vec4 EAST = vec4(0.17364818, -0.37460659, 0.61566148, -0.76604444);
const vec4 SOUTH = vec4(-0.98480775, -0.92718385, -0.78801075, -0.64278761);
const vec4 LENGTH = vec4(13.0, 7.4, 4.1, 2.3);
const vec4 STEEP = vec4(0.16, 0.14, 0.1, 0.08);
const vec4 RATE = vec4(0.3464964, 0.45925567, 0.6169905, 0.82377094);
vec3 change(vec4 high, vec4 fore, vec3 offset, float near, float slope, vec2 unit, vec3 d) {
  vec4 steep = STEEP * (EAST * d.x + SOUTH * d.z);
  vec3 wave = vec3(-dot(high * steep, EAST), dot(fore, steep), -dot(high * steep, SOUTH));
  return wave * near - offset * (slope * dot(unit, d.xz));
}
void main() {
  vec3 world = (modelMatrix * vec4(position, 1.0)).xyz;
  vec4 laps = vec4(lapFraction(RATE.x, k[0].x, k[0].y), lapFraction(RATE.y, k[0].x, k[0].y), lapFraction(RATE.z, k[0].x, k[0].y), lapFraction(RATE.w, k[0].x, k[0].y));
  vec4 phase = (EAST * world.x + SOUTH * world.z) / LENGTH - laps;
  vec4 high = vec4(sineTurns(phase.x), sineTurns(phase.y), sineTurns(phase.z), sineTurns(phase.w));
  vec4 turned4 = phase + 0.25;
  vec4 fore = vec4(sineTurns(turned4.x), sineTurns(turned4.y), sineTurns(turned4.z), sineTurns(turned4.w));
  const vec4 AMPLITUDE = STEEP * LENGTH / 6.2831853;
  vec4 aside = fore * AMPLITUDE;
  vec3 offset = vec3(dot(aside, EAST), dot(high, AMPLITUDE), dot(aside, SOUTH));
  float far = length(world.xz);
  float c = clamp((far / 150.0 - 0.25) / 0.75, 0.0, 1.0);
  float near = 1.0 - c * c * (3.0 - 2.0 * c);
  float slope = 6.0 * c * (1.0 - c) / (0.75 * 150.0);
  vec2 unit = far == 0.0 ? vec2(0.0) : world.xz / far;
  vec3 tangent = tangentOf(normal);
  vec3 bitangent = cross(normal, tangent);
  vec3 along = change(high, fore, offset, near, slope, unit, mat3(modelMatrix) * tangent);
  vec3 across = change(high, fore, offset, near, slope, unit, mat3(modelMatrix) * bitangent);
  vec3 moved = position + offset * near;
  vec3 bent = cross(tangent + along, bitangent + across);
  bent = dot(bent, bent) > 0.0 ? normalize(bent) : normal;
  seenNormal = normalize(transpose(inverse(mat3(modelMatrix))) * bent);
  seenWorld = world;
  seenUv = uv;
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(moved, 1.0);
}
