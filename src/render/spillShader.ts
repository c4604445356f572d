/** Spill in the shaders: the light of all emitters on a surface, looked up in a table. The twin of `core/optics/emitters.ts`. */
import { DataTexture, FloatType, RGBAFormat, Vector4 } from 'three';
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

/**
 * The kinds in the order of the table. Balls, lines of both kinds and panels have a loop each: where a branch costs both of
 * its ways, as it does without a graphics card, a ball would cost as much as a panel.
 */
const KINDS = ['ball', 'line', 'thick', 'panel'] as const;
type Kind = (typeof KINDS)[number];

const spread = ({ from, to }: Capsule): number => Math.hypot(...to.map((v, k) => v - from[k]!));

function kindOf(emitter: Emitter): Kind {
  if (emitter.kind === 'panel') return 'panel';
  const whole = spread(emitter);
  return whole < 1e-6 ? 'ball' : whole < THICK * emitter.radius ? 'thick' : 'line';
}

/** One end and the radius; the direction and how long it is; what it shines with, and both of its ends in one number. */
function lineRows(line: Capsule, rgb: Shining['rgb']): number[][] {
  const { from, to, radius, ends } = line;
  const whole = Math.max(spread(line), 1e-6);
  const both = Math.min(1, ends[0]) + 2 * Math.floor(Math.min(1, ends[1]) * 128);
  return [
    [...from, radius],
    [...to.map((v, k) => (v - from[k]!) / whole), whole],
    [...rgb, both],
  ];
}

/** The table that the shaders read. */
export class EmitterTable {
  private readonly numbers = new Float32Array(MOST_EMITTERS * TEXELS * 4);
  private readonly texture = new DataTexture(this.numbers, TEXELS, MOST_EMITTERS, RGBAFormat, FloatType);
  /** `emitterEnds`: where each kind ends in the table. */
  readonly uniforms = { emitters: { value: this.texture }, emitterEnds: { value: new Vector4() } };

  put(shining: readonly Shining[]): void {
    const sorted = shining
      .slice(0, MOST_EMITTERS)
      .map((one) => ({ ...one, kind: KINDS.indexOf(kindOf(one.emitter)) }))
      .sort((a, b) => a.kind - b.kind);
    sorted.forEach(({ emitter, rgb, own }, k) => {
      const rows =
        emitter.kind === 'capsule'
          ? [...lineRows(emitter, rgb), [0, 0, 0, 0]]
          : [
              [...emitter.centre, emitter.both ? 1 : 0],
              [...emitter.across, 0],
              [...rgb, 0],
              [...emitter.up, 0],
            ];
      this.numbers.set([...rows.flat(), ...own, 0], k * TEXELS * 4);
    });
    const end = (kind: number) => sorted.filter((one) => one.kind <= kind).length;
    this.uniforms.emitterEnds.value.set(end(0), end(1), end(2), end(3));
    if (sorted.length > 0) this.texture.needsUpdate = true;
  }

  dispose(): void {
    this.texture.dispose();
  }
}

/**
 * `spillAt` gives the radiance of a white diffuser, where most of it comes from in `flow`, and how much of the sky shines in
 * `fill`. With `OWN_PLACE`, what stands there does not light it.
 */
export const SPILL_GLSL = `uniform highp sampler2D emitters;
uniform vec4 emitterEnds;
struct Spilt {
  vec3 light;
  vec3 flow;
  float fill;
};
vec4 texelOf(int k, int which) {
  return texelFetch(emitters, ivec2(which, k), 0);
}
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
// The light of the closed ends of a line, both in one number.
float endsShare(vec3 a, vec3 outwards, float whole, float radius, float ends, vec3 n) {
  float rr = radius * radius;
  float highA = dot(a, n);
  float t = dot(a, outwards);
  float squared = dot(a, a);
  float farA = inversesqrt(max(squared, rr));
  float farB = inversesqrt(max(squared + whole * (2.0 * t + whole), rr));
  float endB = floor(ends * 0.5);
  float closedA = max(0.0, highA) * farA * farA * farA * (1.0 + t * farA) * (ends - 2.0 * endB);
  float closedB = max(0.0, highA + whole * dot(outwards, n)) * farB * farB * farB * (1.0 - (t + whole) * farB) * endB * 0.0078125;
  return 0.5 * rr * (closedA + closedB);
}
// The light of a line between its ends.
float lineShare(vec3 a, vec3 outwards, float whole, float radius, vec3 n) {
  float highA = dot(a, n);
  float slant = dot(outwards, n);
  float highB = highA + whole * slant;
  float t = dot(a, outwards);
  float away = sqrt(max(dot(a, a) - t * t, radius * radius));
  float straight = (highA - t * slant) / away;
  float shift = ${(Math.PI / 4).toFixed(6)} * radius / away;
  float down = shift * straight * away;
  float first = highA - down;
  float last = highB - down;
  if (max(first, last) <= 0.0) return 0.0;
  // Only what is above the horizon.
  float low = t;
  float end = t + whole;
  if (min(first, last) < 0.0) {
    float cut = whole * first / (first - last);
    if (first < 0.0) low += cut;
    else end = t + cut;
  }
  return radius * (1.0 - shift) * ${(1 / Math.PI).toFixed(8)} * runShare(straight, slant, away * (1.0 - shift), low, end);
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
void add(inout Spilt spilt, int k, float share, vec3 way) {
  #ifdef OWN_PLACE
    if (texelOf(k, 4).xyz == OWN_PLACE) return;
  #endif
  vec3 shine = texelOf(k, 2).rgb;
  spilt.light += share * shine;
  spilt.fill += share;
  spilt.flow += share * dot(shine, vec3(0.2126, 0.7152, 0.0722)) * way;
}
Spilt spillAt(vec3 point, vec3 n) {
  Spilt spilt = Spilt(vec3(0.0), vec3(0.0), 0.0);
  ivec4 ends = ivec4(emitterEnds);
  for (int k = 0; k < ends.x; k++) {
    vec4 one = texelOf(k, 0);
    vec3 way = one.xyz - point;
    float far = inversesqrt(max(dot(way, way), one.w * one.w));
    way *= far;
    add(spilt, k, ballShare(one.w * far, dot(way, n)), way);
  }
  for (int k = ends.x; k < ends.z; k++) {
    vec4 one = texelOf(k, 0);
    vec4 two = texelOf(k, 1);
    vec3 way = one.xyz - point;
    float share = lineShare(way, two.xyz, two.w, one.w, n);
    // Those that hide their ends come first.
    if (k >= ends.y) share += endsShare(way, two.xyz, two.w, one.w, texelOf(k, 2).w, n);
    way += two.xyz * clamp(-dot(way, two.xyz), 0.0, two.w);
    add(spilt, k, share, way * inversesqrt(max(dot(way, way), one.w * one.w)));
  }
  for (int k = ends.z; k < ends.w; k++) {
    vec4 one = texelOf(k, 0);
    vec3 way = one.xyz - point;
    add(spilt, k, panelShare(way, texelOf(k, 1).xyz, texelOf(k, 3).xyz, one.w > 0.5, n), normalize(way));
  }
  return spilt;
}`;

/**
 * Statements after three's own lights: spill on what is matt, and its gleam on what is not, as of one light where most
 * comes from, by GGX with the short form of its shadowing (Hammon, "PBR Diffuse Lighting for GGX+Smith Microsurfaces", 2017).
 */
export const SPILL_LIT_GLSL = `
  if (emitterEnds.w > 0.0) {
    vec3 upright = inverseTransformDirection(normal, viewMatrix);
    Spilt spilt = spillAt(seenWorld, upright);
    reflectedLight.directDiffuse += spilt.light * material.diffuseContribution;
    #ifdef SPILL_GLEAMS
      float strong = dot(spilt.light, vec3(0.2126, 0.7152, 0.0722));
      vec3 way = spilt.flow / max(strong, 1e-5);
      float gathered = length(way);
      way /= max(gathered, 1e-5);
      vec3 toEye = normalize(cameraPosition - seenWorld);
      vec3 between = normalize(way + toEye);
      // What comes from all about, or from what is wide, is mirrored as by a rougher surface.
      float rough = clamp(material.roughness * material.roughness + 0.12 * (1.0 - min(1.0, gathered)) + spilt.fill, 0.002, 1.0);
      float facing = clamp(dot(upright, between), 0.0, 1.0);
      float peak = facing * facing * (rough * rough - 1.0) + 1.0;
      float toLight = dot(way, upright);
      float light = clamp(toLight, 0.001, 1.0);
      float eye = clamp(dot(toEye, upright), 0.001, 1.0);
      float unshadowed = 0.5 / mix(2.0 * light * eye, light + eye, rough);
      float grazing = 1.0 - clamp(dot(toEye, between), 0.0, 1.0);
      float squared = grazing * grazing;
      vec3 mirrored = mix(material.specularColorBlended, vec3(material.specularF90), squared * squared * grazing);
      // The law of gleams has no bound where light and view both graze the surface.
      float above = clamp(toLight * 10.0, 0.0, 1.0);
      reflectedLight.directSpecular += above * spilt.light * mirrored * (rough * rough / (peak * peak) * unshadowed);
    #endif
  }`;
