/**
 * Which fragments of a dithered surface are left out: a share that hangs on where the surface is, not on where it is seen,
 * so that it moves with the prop. Space is parted into cells of about a pixel, each with a threshold by its hash.
 */

const HASH_GLSL = `uvec3 mixed(uvec3 v) {
  v = v * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return v;
}
vec3 cellsAt(vec3 p) {
  float pixel = max(length(dFdx(p)), length(dFdy(p)));
  return p * exp2(-floor(log2(max(pixel, 1e-9))));
}
float thresholdOf(vec3 cells) { return float(mixed(uvec3(ivec3(floor(cells)))).x >> 8u) * exp2(-24.0); }`;

/** `scatter(position)`: 0 to 1. */
export const DITHER_GLSL = `${HASH_GLSL}
float scatter(vec3 p) { return thresholdOf(cellsAt(p)); }`;

/**
 * The same for a renderer of stills: their samples, in which nothing moves, take evenly spread thresholds pixel by pixel;
 * surfaces behind one another step through theirs in different strides, so that what is behind shows as often as it should.
 */
export const STILL_DITHER_GLSL = `${HASH_GLSL}
float scatter(vec3 p) {
  vec3 cells = cellsAt(p);
  if (sampleIndex < 0.5) return thresholdOf(cells);
  uvec3 place = mixed(uvec3(ivec3(floor(cells / 32.0))));
  // Roots of primes: no two strides ever fall in step.
  const float strides[8] = float[8](0.41421356, 0.73205081, 0.23606798, 0.64575131, 0.31662479, 0.60555128, 0.12310563, 0.35889894);
  uvec3 own = mixed(uvec3(uvec2(gl_FragCoord.xy), place.x));
  return fract(float(own.x >> 8u) * exp2(-24.0) + sampleIndex * strides[place.y & 7u]);
}`;

export const DITHER_WGSL = `fn mixed(start: vec3u) -> vec3u {
  var v = start * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> vec3u(16u);
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return v;
}
fn scatter(p: vec3f) -> f32 {
  let pixel = max(length(dpdx(p)), length(dpdy(p)));
  let cells = p * exp2(-floor(log2(max(pixel, 1e-9))));
  return f32(mixed(bitcast<vec3u>(vec3i(floor(cells)))).x >> 8u) * exp2(-24.0);
}`;
