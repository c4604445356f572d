/** GLSL of the full-screen passes: prefilter, down, up, and the last one to the display. */

export const SCREEN_VERTEX = `in vec3 position;
out vec2 vUv;
void main() {
  vUv = position.xy * 0.5 + 0.5;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}`;

const HEAD = `precision highp float;
in vec2 vUv;
out vec4 colour;
`;

/** Taps of a 4x4 tent around the target pixel, in target pixels. */
const SOFT_READ = `
vec3 softRead(sampler2D picture, vec2 uv, vec2 pixel) {
  vec3 sum = vec3(0.0);
  for (int y = 0; y < 4; y++) {
    for (int x = 0; x < 4; x++) {
      vec2 at = (vec2(x, y) - 1.5) * 0.5;
      vec2 weight = 1.0 - abs(at) * 0.5;
      sum += texture(picture, uv + at * pixel).rgb * weight.x * weight.y;
    }
  }
  // (5/8 + 7/8) * 2 = 3 in each direction
  return sum / 9.0;
}
`;

export const PREFILTER = `${HEAD}
uniform sampler2D picture;
uniform vec2 pixel;
uniform float exposure;
uniform float threshold;
uniform float knee;
vec3 above(vec3 c) {
  float y = dot(c, vec3(0.2126, 0.7152, 0.0722));
  float soft = max(threshold * knee, 1e-5);
  float into = clamp(y - threshold + soft, 0.0, 2.0 * soft);
  return y <= 0.0 ? vec3(0.0) : c * (max(into * into / (4.0 * soft), y - threshold) / y);
}
// A tent as wide as the coarser pixels, over all pixels under it: each of the picture counts for as much as any other.
void main() {
  ivec2 last = textureSize(picture, 0) - 1;
  vec2 ratio = max(vec2(textureSize(picture, 0)) * pixel, vec2(1.0));
  vec2 middle = gl_FragCoord.xy * vec2(textureSize(picture, 0)) * pixel - 0.5;
  ivec2 first = ivec2(ceil(middle - ratio));
  vec3 sum = vec3(0.0);
  for (int y = 0; y < 5; y++) {
    for (int x = 0; x < 5; x++) {
      ivec2 at = first + ivec2(x, y);
      vec2 weight = max(1.0 - abs(vec2(at) - middle) / ratio, vec2(0.0)) / ratio;
      if (weight.x * weight.y > 0.0) sum += above(texelFetch(picture, clamp(at, ivec2(0), last), 0).rgb * exposure) * weight.x * weight.y;
    }
  }
  colour = vec4(sum, 1.0);
}`;

export const DOWN = `${HEAD}
uniform sampler2D picture;
uniform vec2 pixel;
${SOFT_READ}
void main() { colour = vec4(softRead(picture, vUv, pixel), 1.0); }`;

/** This level times its weight, plus the coarser sum, spread by a 3x3 tent of the coarser level's pixels. */
export const UP = `${HEAD}
uniform sampler2D picture;
uniform sampler2D coarser;
uniform vec2 pixel;
uniform float weight;
uniform float coarserWeight;
void main() {
  vec3 sum = vec3(0.0);
  for (int y = -1; y <= 1; y++) {
    for (int x = -1; x <= 1; x++) {
      float w = (2.0 - abs(float(x))) * (2.0 - abs(float(y)));
      sum += texture(coarser, vUv + vec2(x, y) * pixel).rgb * w;
    }
  }
  colour = vec4(texture(picture, vUv).rgb * weight + sum / 16.0 * coarserWeight, 1.0);
}`;

export const DISPLAY = `${HEAD}
uniform sampler2D picture;
uniform sampler2D bloom;
uniform float exposure;
uniform float bloomIntensity;
uniform int tone;
uniform bool grades;
uniform vec3 slope, offset, power;
uniform float saturation;
vec3 khronosNeutral(vec3 c) {
  float start = 0.8 - 0.04;
  float low = min(c.r, min(c.g, c.b));
  c -= low < 0.08 ? low - 6.25 * low * low : 0.04;
  float peak = max(c.r, max(c.g, c.b));
  if (peak < start) return c;
  float d = 1.0 - start;
  float newPeak = 1.0 - d * d / (peak + d - start);
  c *= newPeak / peak;
  float white = 1.0 - 1.0 / (0.15 * (peak - newPeak) + 1.0);
  return mix(c, vec3(newPeak), white);
}
vec3 hueKept(vec3 c) {
  float peak = max(c.r, max(c.g, c.b));
  if (peak <= 0.76) return c;
  float shown = 1.0 - 0.24 * 0.24 / (peak + 0.24 - 0.76);
  float over = peak - shown;
  float lift = 0.004 * over;
  return shown * pow((max(c, 0.0) + lift) / (peak + lift), vec3(1.0 / (1.0 + 0.26 * (sqrt(1.0 + over) - 1.0))));
}
vec3 acesFit(vec3 c) {
  c = mat3(0.59719, 0.07600, 0.02840, 0.35458, 0.90834, 0.13383, 0.04823, 0.01566, 0.83777) * c;
  c = (c * (c + 0.0245786) - 0.000090537) / (c * (0.983729 * c + 0.4329510) + 0.238081);
  return mat3(1.60475, -0.10208, -0.00327, -0.53108, 1.10813, -0.07276, -0.07367, -0.00605, 1.07602) * c;
}
vec3 srgb(vec3 c) { return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, 12.92 * c, lessThanEqual(c, vec3(0.0031308))); }
vec3 graded(vec3 c) { // core/optics/grade
  c = pow(clamp(c * slope + offset, 0.0, 1.0), power);
  float luma = dot(c, vec3(0.2126, 0.7152, 0.0722));
  return clamp(luma + saturation * (c - luma), 0.0, 1.0);
}
float grain(uvec2 p) {
  uint h = p.x * 1664525u + p.y * 1013904223u;
  h = (h ^ (h >> 16u)) * 2146121005u;
  h = (h ^ (h >> 15u)) * 2221713035u;
  return float(h >> 8u) * 5.9604645e-8;
}
void main() {
  vec3 c = texture(picture, vUv).rgb * exposure + bloomIntensity * texture(bloom, vUv).rgb;
  if (tone == 1) c = khronosNeutral(c);
  if (tone == 2) c = acesFit(c);
  if (tone == 3) c = hueKept(c);
  c = srgb(clamp(c, 0.0, 1.0));
  if (grades) c = graded(c);
  // Half a step of dither hides the bands of a dark gradient.
  colour = vec4(c + (grain(uvec2(gl_FragCoord.xy)) - 0.5) / 255.0, 1.0);
}`;

/** The same through a lens that bends. A shader of its own: what is not bent is read at its texels and nowhere between. */
export const DISPLAY_BENT = DISPLAY.replace(
  'uniform int tone;',
  `uniform int tone;
uniform vec3 lens; // bend, width over height, scale: core/optics/lens
vec2 unbent(vec2 uv) {
  vec2 off = uv * 2.0 - 1.0;
  vec2 even = off * vec2(lens.y, 1.0);
  return 0.5 + 0.5 * off * lens.z * (1.0 + lens.x * dot(even, even));
}`,
).replaceAll(', vUv)', ', unbent(vUv))');

/** Exposed luminance of two by two pixels, so that all of them can be read back at once. */
export const MEASURE = `precision highp float;
uniform sampler2D picture;
uniform float exposure;
out vec4 four;
float at(ivec2 p) {
  ivec2 last = textureSize(picture, 0) - 1;
  return dot(texelFetch(picture, min(p, last), 0).rgb, vec3(0.2126, 0.7152, 0.0722)) * exposure;
}
void main() {
  ivec2 p = ivec2(gl_FragCoord.xy) * 2;
  four = vec4(at(p), at(p + ivec2(1, 0)), at(p + ivec2(0, 1)), at(p + ivec2(1, 1)));
}`;

/** The opaque picture as it is, for its softer levels to be made of. */
export const BEHIND_COLOUR = `${HEAD}
uniform highp sampler2D picture;
void main() {
  colour = vec4(texelFetch(picture, ivec2(gl_FragCoord.xy), 0).rgb, 1.0);
}`;

/** From a perspective depth buffer to metres along the view axis. */
export const BEHIND_DEPTH = `${HEAD}
uniform highp sampler2D depth;
uniform float near;
uniform float far;
void main() {
  float d = texelFetch(depth, ivec2(gl_FragCoord.xy), 0).x;
  // What is left of 1 is exact; a difference of products would lose what tells far places apart.
  colour = vec4(near / ((1.0 - d) + d * (near / far)), 0.0, 0.0, 1.0);
}`;

/** One more sample of a still, by its share of all so far. */
export const ADD_SAMPLE = `${HEAD}
uniform highp sampler2D sum;
uniform highp sampler2D picture;
uniform float share;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec3 sample1 = texelFetch(picture, at, 0).rgb;
  colour = vec4(share >= 1.0 ? sample1 : mix(texelFetch(sum, at, 0).rgb, sample1, share), 1.0);
}`;

/** Values of a peek, every so many pixels. */
export const PEEK_COPY = `${HEAD}
uniform highp sampler2D values;
void main() { colour = textureLod(values, vUv, 0.0); }`;

/** Values as they are, in a picture that steps back. */
export const PEEK_DISPLAY = `${HEAD}
uniform sampler2D picture;
uniform highp sampler2D values;
uniform float exposure;
uniform int lanes;
uniform bool isColour;
uniform int mode; // 0 from 0 to 1, 1 over its range, 2 away from 0
uniform vec2 range;
vec3 srgb(vec3 c) { return mix(1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, 12.92 * c, lessThanEqual(c, vec3(0.0031308))); }
void main() {
  vec4 v = textureLod(values, vUv, 0.0);
  vec2 p = floor(gl_FragCoord.xy);
  // Stripes that rise to the right, and stripes that fall.
  bool rising = mod(p.x - p.y, 8.0) < 4.0;
  bool falling = mod(p.x + p.y, 8.0) < 4.0;
  if (v.a < 0.5) {
    float light = dot(texture(picture, vUv).rgb * exposure, vec3(0.2126, 0.7152, 0.0722));
    colour = vec4(srgb(vec3(0.3 * clamp(light / (1.0 + light), 0.0, 1.0))), 1.0);
    return;
  }
  if (v.a > 1.5) {
    colour = vec4(rising ? vec3(1.0, 0.0, 0.42) : vec3(0.05, 0.0, 0.02), 1.0);
    return;
  }
  float most = max(v.x, lanes > 1 ? max(v.y, lanes > 2 ? v.z : v.y) : v.x);
  float least = min(v.x, lanes > 1 ? min(v.y, lanes > 2 ? v.z : v.y) : v.x);
  vec3 c;
  if (mode == 2 && lanes == 1) {
    c = mix(vec3(0.078, 0.071, 0.102), v.x < 0.0 ? vec3(0.329, 0.780, 0.820) : vec3(0.910, 0.620, 0.878), min(1.0, abs(v.x) / range.y));
  } else {
    vec3 to = clamp((v.rgb - range.x) / (range.y - range.x), 0.0, 1.0);
    c = lanes == 1 ? to.xxx : lanes == 2 ? vec3(to.xy, 0.0) : isColour && mode == 0 ? srgb(to) : to;
    if (mode == 0 && most > 1.0) c = rising ? max(c, vec3(0.12)) : c * 0.45;
    if (mode == 0 && least < 0.0) c = falling ? mix(c, vec3(0.42), 0.6) : c * 0.3 + 0.02;
  }
  colour = vec4(c, 1.0);
}`;
