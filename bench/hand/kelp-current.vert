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
in vec4 vertexColourDt;
in vec4 vertexColourDb;
centroid out vec4 seenColour;
out vec3 seenNormal;
#include "along"
#include "kernels"
const float STRENGTH = 0.42;
const vec4 LENGTH = vec4(2.7, 1.6, 0.95, 0.5);
const vec4 SPEED = vec4(0.62, 0.5, 0.4, 0.55);
const vec4 BIAS = vec4(0.9, 0.85, 0.8, 0.0);
const vec4 AMPLITUDE = vec4(0.6, 0.34, 0.2, 0.16);
const float TURN = 6.2831853;
// What swings at a point: itself, and how it changes in two directions.
struct Swing { vec3 now; vec3 one; vec3 two; };
vec4 sines(vec4 t) { return vec4(sineTurns(t.x), sineTurns(t.y), sineTurns(t.z), sineTurns(t.w)); }
vec3 changed(vec2 heading, vec4 each, float gust, bool gusts, vec4 dEach, vec3 flutter, vec3 dFlutter) {
  float dFirst = dEach.x + dEach.y + dEach.z;
  float dGust = gusts ? dFirst * 2.4 : 0.0;
  float dPush = dFirst + dEach.w * gust + each.w * dGust;
  return vec3(heading.x * dPush, 0.0, heading.y * dPush) + (dFlutter * gust + flutter * dGust) * 0.12;
}
Swing current(vec2 heading, vec2 world, vec4 late, Swing flutter, vec2 dOne, vec2 dTwo, vec4 lateOne, vec4 lateTwo) {
  vec4 turns = dot(heading, world) / LENGTH + late;
  vec4 each = (sines(turns) + BIAS) * AMPLITUDE;
  vec4 steep = sines(turns + 0.25) * (TURN * AMPLITUDE);
  float first = each.x + each.y + each.z;
  float rise = (first - 1.25) * 2.4;
  float gust = max(clamp(rise, 0.0, 1.0), 0.3 * STRENGTH);
  bool gusts = rise > 0.3 * STRENGTH && rise <= 1.0;
  float push = first + each.w * gust;
  return Swing(
    vec3(heading.x * push, 0.0, heading.y * push) + flutter.now * (gust * 0.12),
    changed(heading, each, gust, gusts, steep * (dot(heading, dOne) / LENGTH + lateOne), flutter.now, flutter.one),
    changed(heading, each, gust, gusts, steep * (dot(heading, dTwo) / LENGTH + lateTwo), flutter.now, flutter.two)
  );
}
void main() {
  vec3 world = (modelMatrix * vec4(position, 1.0)).xyz;
  vec3 tangent = tangentOf(normal);
  vec3 bitangent = cross(normal, tangent);
  vec3 dOne = mat3(modelMatrix) * tangent;
  vec3 dTwo = mat3(modelMatrix) * bitangent;
  vec3 lag = vec3(position.y, tangent.y, bitangent.y) * 0.38 + vec3(vertexColour.r, vertexColourDt.r, vertexColourDb.r) * 0.5;
  float t = k[0].x;
  float rest = k[0].y;
  const vec4 LATE = SPEED / LENGTH;
  vec4 late = LATE * lag.x + vec4(lapFraction(-0.62 / 2.7, t, rest), lapFraction(-0.5 / 1.6, t, rest), lapFraction(-0.4 / 0.95, t, rest), lapFraction(-1.1, t, rest));
  const vec3 FINE = vec3(5.1, 4.3, 4.7) / TURN;
  const vec3 FAST = vec3(7.3, 5.9, 6.7) / TURN;
  vec3 angle = FINE * world.yxz - FAST * lag.x + vec3(lapFraction(7.3 / TURN, t, rest), lapFraction(5.9 / TURN, t, rest), lapFraction(6.7 / TURN, t, rest));
  const vec3 SIZES = vec3(1.0, 0.3, 1.0);
  vec3 steep = vec3(sineTurns(angle.x + 0.25), sineTurns(angle.y + 0.25), sineTurns(angle.z + 0.25)) * (TURN * SIZES);
  Swing flutter = Swing(
    vec3(sineTurns(angle.x), sineTurns(angle.y), sineTurns(angle.z)) * SIZES,
    steep * (FINE * dOne.yxz - FAST * lag.y),
    steep * (FINE * dTwo.yxz - FAST * lag.z)
  );
  // 12 and -52 degrees.
  vec4 lateOne = LATE * lag.y;
  vec4 lateTwo = LATE * lag.z;
  Swing north = current(vec2(0.9781476, -0.20791169), world.xz, late, flutter, dOne.xz, dTwo.xz, lateOne, lateTwo);
  Swing south = current(vec2(0.61566148, 0.78801075), world.xz, late, flutter, dOne.xz, dTwo.xz, lateOne, lateTwo);
  float turning = sineTurns(lapFraction(0.04, t, rest)) * 0.5 + 0.5;
  // Back into the prop's own space.
  vec3 x = modelMatrix[0].xyz;
  vec3 y = modelMatrix[1].xyz;
  vec3 z = modelMatrix[2].xyz;
  vec3 yz = cross(y, z);
  float volume = dot(x, yz);
  mat3 back = volume == 0.0 ? mat3(0.0) : transpose(mat3(yz, cross(z, x), cross(x, y))) / volume;
  float paint = max(vertexColour.r, 0.0);
  float root = sqrt(paint);
  float share = paint * root * (0.95 * STRENGTH);
  vec2 more = vec2(vertexColourDt.r, vertexColourDb.r) * (1.5 * root * 0.95 * STRENGTH);
  vec3 push = back * mix(north.now, south.now, turning);
  vec3 moved = position + push * share;
  vec3 along = back * mix(north.one, south.one, turning) * share + push * more.x;
  vec3 across = back * mix(north.two, south.two, turning) * share + push * more.y;
  vec3 bent = cross(tangent + along, bitangent + across);
  bent = dot(bent, bent) > 0.0 ? normalize(bent) : normal;
  seenNormal = normalize(transpose(inverse(mat3(modelMatrix))) * bent);
  seenColour = vertexColour;
  gl_Position = projectionMatrix * viewMatrix * modelMatrix * vec4(moved, 1.0);
}
