/** Spill in the shaders: the light of all emitters on a surface, looked up in a table. The twin of `core/optics/emitters.ts`. */
import { DataTexture, FloatType, RGBAFormat } from 'three';
import type { Capsule, Emitter } from '../core/optics/emitters.js';

/** Emitters that there is room for. */
export const MOST_EMITTERS = 64;
/** A line longer than so many radii hides its ends: nobody sees how they are made. */
const THICK = 30;
/** Texels that one takes. */
const TEXELS = 5;

/** An emitter as it shines. */
export interface Shining {
  readonly emitter: Emitter;
  /** Scene-linear radiance. */
  readonly rgb: readonly [number, number, number];
  /** Where its prop stands: what stands just there is its own surface, which it does not light. */
  readonly own: readonly [number, number, number];
}

/** One end and the radius; the direction and how long it is; what it shines with, and both of its ends in one number. */
function lineRows({ from, to, radius, ends }: Capsule, rgb: Shining['rgb'], own: Shining['own']): number[][] {
  const axis = to.map((v, k) => v - from[k]!);
  const whole = Math.hypot(...axis);
  const out = whole > 1e-6 ? axis.map((v) => v / whole) : [0, 1, 0];
  const both = Math.min(1, ends[0]) + 2 * Math.floor(Math.min(1, ends[1]) * 128);
  return [
    [...from, radius],
    [...out, whole > 1e-6 ? whole : 0],
    [...rgb, both],
    [...own, 0],
    [0, 0, 0, 0],
  ];
}

/** The table that the shaders read. */
export class EmitterTable {
  private readonly numbers = new Float32Array(MOST_EMITTERS * TEXELS * 4);
  private readonly texture = new DataTexture(this.numbers, TEXELS, MOST_EMITTERS, RGBAFormat, FloatType);
  readonly uniforms = { emitters: { value: this.texture }, emitterCount: { value: 0 } };

  put(shining: readonly Shining[]): void {
    const count = Math.min(MOST_EMITTERS, shining.length);
    for (let k = 0; k < count; k++) {
      const { emitter, rgb, own } = shining[k]!;
      const rows =
        emitter.kind === 'capsule'
          ? lineRows(emitter, rgb, own)
          : [
              [...emitter.centre, emitter.both ? -2 : -1],
              [...emitter.across, 0],
              [...rgb, 0],
              [...own, 0],
              [...emitter.up, 0],
            ];
      this.numbers.set(rows.flat(), k * TEXELS * 4);
    }
    this.uniforms.emitterCount.value = count;
    if (count > 0) this.texture.needsUpdate = true;
  }

  dispose(): void {
    this.texture.dispose();
  }
}

/** `spillAt` gives the radiance of a white diffuser, where most of it comes from in `flow`, and how much of the sky shines in `fill`. */
export const SPILL_GLSL = `uniform highp sampler2D emitters;
uniform int emitterCount;
float ballShare(float sine, float height) {
  float cut = max(0.0, height + sine);
  return height >= sine ? sine * sine * height : 0.25 * sine * cut * cut;
}
// Abramowitz and Stegun 4.4.45: off by 7e-5 at most.
float angleOf(float cosine) {
  float x = min(abs(cosine), 1.0);
  float angle = (((-0.0187293 * x + 0.0742610) * x - 0.2121144) * x + 1.5707288) * sqrt(1.0 - x);
  return cosine < 0.0 ? 3.14159265 - angle : angle;
}
float runShare(float straight, float slant, float high, float low, float end) {
  float hh = high * high;
  float aa = 1.0 / (hh + low * low);
  float bb = 1.0 / (hh + end * end);
  float angle = angleOf((hh + low * end) * sqrt(aa * bb));
  return max(0.0, straight * (end * bb - low * aa + angle / high) - slant * high * (bb - aa));
}
// The light of a line and of its ends; way is where it comes from.
float lineShare(vec3 a, vec3 outwards, float whole, float radius, float ends, vec3 n, out vec3 way) {
  float rr = radius * radius;
  way = a + outwards * clamp(-dot(a, outwards), 0.0, whole);
  way *= inversesqrt(max(dot(way, way), rr));
  float highA = dot(a, n);
  if (whole == 0.0) {
    float far = inversesqrt(max(dot(a, a), rr));
    return ballShare(radius * far, highA * far);
  }
  float slant = dot(outwards, n);
  float highB = highA + whole * slant;
  float t = dot(a, outwards);
  float squared = dot(a, a);
  float away = sqrt(max(squared - t * t, rr));
  float straight = (highA - t * slant) / away;
  float share = 0.0;
  if (whole < ${THICK.toFixed(1)} * radius) {
    float farA = inversesqrt(max(squared, rr));
    float farB = inversesqrt(max(squared + whole * (2.0 * t + whole), rr));
    float endB = floor(ends * 0.5);
    float closedA = max(0.0, highA) * farA * farA * farA * (1.0 + t * farA) * (ends - 2.0 * endB);
    float closedB = max(0.0, highB) * farB * farB * farB * (1.0 - (t + whole) * farB) * endB * 0.0078125;
    share = 0.5 * rr * (closedA + closedB);
  }
  float shift = ${(Math.PI / 4).toFixed(6)} * radius / away;
  float down = shift * straight * away;
  float first = highA - down;
  float last = highB - down;
  if (max(first, last) <= 0.0) return share;
  // Only what is above the horizon.
  float low = t;
  float end = t + whole;
  if (min(first, last) < 0.0) {
    float cut = whole * first / (first - last);
    if (first < 0.0) low += cut;
    else end = t + cut;
  }
  return share + radius * (1.0 - shift) * ${(1 / Math.PI).toFixed(8)} * runShare(straight, slant, away * (1.0 - shift), low, end);
}
// A rational fit of angle / sine (Heitz et al. 2016), over two pi.
vec3 edgeFlow(vec3 a, vec3 b) {
  float x = dot(a, b);
  float y = abs(x);
  float v = (0.8543985 + (0.4965155 + 0.0145206 * y) * y) / (3.4175940 + (4.1616724 + y) * y);
  return cross(a, b) * (x > 0.0 ? v : 0.5 * inversesqrt(max(1.0 - x * x, 1e-7)) - v);
}
float panelShare(vec3 centre, vec3 across, vec3 up, bool both, vec3 n) {
  float front = -dot(centre, cross(across, up));
  if (!both && front <= 0.0) return 0.0;
  vec3 a = normalize(centre - across - up);
  vec3 b = normalize(centre + across - up);
  vec3 c = normalize(centre + across + up);
  vec3 d = normalize(centre - across + up);
  vec3 flow = edgeFlow(a, b) + edgeFlow(b, c) + edgeFlow(c, d) + edgeFlow(d, a);
  if (front > 0.0) flow = -flow;
  float share = length(flow);
  return share < 1e-9 ? 0.0 : ballShare(sqrt(share), dot(flow, n) / share);
}
vec3 spillAt(vec3 point, vec3 n, vec3 ownPlace, out vec3 flow, out float fill) {
  vec3 light = vec3(0.0);
  flow = vec3(0.0);
  fill = 0.0;
  bool ours = ownPlace.x < 1e29;
  for (int k = 0; k < emitterCount; k++) {
    vec4 one = texelFetch(emitters, ivec2(0, k), 0);
    vec4 two = texelFetch(emitters, ivec2(1, k), 0);
    vec4 shine = texelFetch(emitters, ivec2(2, k), 0);
    if (ours && texelFetch(emitters, ivec2(3, k), 0).xyz == ownPlace) continue;
    float share;
    vec3 way = one.xyz - point;
    if (one.w >= 0.0) share = lineShare(way, two.xyz, two.w, one.w, shine.w, n, way);
    else {
      share = panelShare(way, two.xyz, texelFetch(emitters, ivec2(4, k), 0).xyz, one.w < -1.5, n);
      way = normalize(way);
    }
    light += share * shine.rgb;
    fill += share;
    flow += share * dot(shine.rgb, vec3(0.2126, 0.7152, 0.0722)) * way;
  }
  return light;
}`;

/** Statements after three's own lights: spill on what is matt, and its gleam on what is not, as of one light where most comes from. */
export const SPILL_LIT_GLSL = `
  if (emitterCount > 0) {
    vec3 flow;
    float fill;
    vec3 spilt = spillAt(seenWorld, inverseTransformDirection(normal, viewMatrix), ownPlace, flow, fill);
    float strong = dot(spilt, vec3(0.2126, 0.7152, 0.0722));
    reflectedLight.directDiffuse += spilt * material.diffuseContribution;
    if (strong > 1e-5) {
      float gathered = clamp(length(flow) / strong, 0.0, 1.0);
      vec3 way = normalize((viewMatrix * vec4(flow, 0.0)).xyz);
      float kept = material.roughness;
      // What comes from all about, or from what is wide, is mirrored as by a rougher surface.
      material.roughness = sqrt(clamp(kept * kept + 0.12 * (1.0 - gathered) + fill, 0.0, 1.0));
      // The law of gleams has no bound where light and view both graze the surface.
      float above = clamp(dot(way, normal) * 10.0, 0.0, 1.0);
      reflectedLight.directSpecular += above * spilt * PI * BRDF_GGX(way, geometryViewDir, normal, material);
      material.roughness = kept;
    }
  }`;
