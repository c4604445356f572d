/**
 * Shadows that are sharp where they begin and softer the farther away what throws them is, while the picture moves: how
 * far that is is looked up in a coarse picture of what stands nearest each lamp. A still needs none of it: its lamps are
 * moved over their discs.
 */
import {
  HalfFloatType,
  ShaderChunk,
  Vector4,
  WebGLRenderTarget,
  type OrthographicCamera,
  type PerspectiveCamera,
  type RenderTarget,
  type WebGLRenderer,
} from 'three';
import { Screen, pass } from './screen.js';

/** Lights that throw shadows: each is one more drawing of the stage. */
export const MOST_SHADOWS = 3;
/** Cells of the coarse picture along one side of a lamp's. */
const CELLS = 128;

/** Metres from the lamp, of a place in its depth. `lamp` is near, far, width, whether the lamp sees in perspective. */
const METRES_GLSL = `float lampMetres(vec4 lamp, float z) {
  return lamp.w > 0.5 ? lamp.x * lamp.y / (lamp.y - z * (lamp.y - lamp.x)) : mix(lamp.x, lamp.y, z);
}`;

/** The nearest thing of each cell of a lamp's depths: every other row and column is looked at. */
const NEAREST = `precision highp float;
precision highp sampler2D;
uniform sampler2D depths;
uniform vec4 lamp;
out vec4 colour;
${METRES_GLSL}
void main() {
  ivec2 size = textureSize(depths, 0);
  ivec2 first = ivec2(gl_FragCoord.xy) * size / ${CELLS};
  ivec2 end = (ivec2(gl_FragCoord.xy) + 1) * size / ${CELLS};
  float z = 1.0;
  for (int y = first.y; y < end.y; y += 2)
    for (int x = first.x; x < end.x; x += 2) z = min(z, texelFetch(depths, ivec2(x, y), 0).r);
  colour = vec4(lampMetres(lamp, z));
}`;

/** Of a cell and of those around it, into the row of the lamp. */
const AROUND = `precision highp float;
precision highp sampler2D;
uniform sampler2D cells;
uniform int row;
out vec4 colour;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy) - ivec2(0, row * ${CELLS});
  float metres = 1e4;
  for (int y = -1; y <= 1; y++)
    for (int x = -1; x <= 1; x++)
      metres = min(metres, texelFetch(cells, clamp(at + ivec2(x, y), ivec2(0), ivec2(${CELLS - 1})), 0).r);
  colour = vec4(metres);
}`;

/** Narrowest and widest that a shadow's edge is read, in texels of the lamp's picture: half its width. */
const [SHARPEST, SOFTEST] = [1.5, 20];

/**
 * Reads a shadow over the part of the lamp that is hidden. What is less than a fifth as high as what was looked up is
 * left out away from the middle, or a slope would lie in its own shadow. The lamp is told by where three keeps a radius.
 * As Fernando, "Percentage-Closer Soft Shadows" (2005), with the search made once a frame.
 */
const READ_GLSL = `uniform sampler2D nearestToLamp;
uniform vec4 shadowLamps[${MOST_SHADOWS}];
${METRES_GLSL}
float getShadow(sampler2DShadow map, vec2 size, float intensity, float bias, float index, vec4 coord) {
  vec3 at = coord.xyz / coord.w;
  at.z += bias;
  if (any(lessThan(at.xy, vec2(0.0))) || any(greaterThan(at, vec3(1.0)))) return 1.0;
  int row = int(index + 0.5);
  vec4 lamp = shadowLamps[row];
  float here = lampMetres(lamp, at.z);
  vec2 cell = vec2(at.x, (clamp(at.y, ${(0.5 / CELLS).toFixed(6)}, ${(1 - 0.5 / CELLS).toFixed(6)}) + float(row)) / ${MOST_SHADOWS}.0);
  float nearest = textureLod(nearestToLamp, cell, 0.0).r;
  float above = max(here - nearest, 0.0);
  float wide = lamp.z * above;
  float slope = 1.0 / (lamp.y - lamp.x);
  if (lamp.w > 0.5) {
    wide /= here * nearest;
    slope *= lamp.x * lamp.y / (here * here);
  }
  wide = clamp(wide, ${SHARPEST.toFixed(1)} / size.x, ${SOFTEST.toFixed(1)} / size.x);
  float lower = lamp.z > 0.0 ? 0.2 * above * slope : 0.0;
  float turn = interleavedGradientNoise(gl_FragCoord.xy) * PI2;
  float lit = 0.0;
  for (int k = 0; k < 5; k++) {
    vec2 o = vogelDiskSample(k, 5, turn);
    lit += texture(map, vec3(at.xy + o * wide, at.z - length(o) * lower));
  }
  // At a wide edge five are too few: it would be grains.
  if (wide * size.x > 4.0 && lit > 0.01 && lit < 4.99) {
    for (int k = 0; k < 9; k++) {
      vec2 o = vogelDiskSample(k, 9, turn + 1.2);
      lit += texture(map, vec3(at.xy + o * wide, at.z - length(o) * lower));
    }
    lit *= 5.0 / 14.0;
  }
  return mix(1.0, lit * 0.2, intensity);
}`;

/** three's reading of shadows with ours in the place of its own. @throws when three's has changed */
export function softly(chunk: string): string {
  const from = chunk.indexOf('float getShadow( sampler2DShadow');
  const to = chunk.indexOf('#elif defined( SHADOWMAP_TYPE_VSM )', from);
  if (from < 0 || to < 0) throw new Error('three reads shadows in another way than was known');
  return `${chunk.slice(0, from)}${READ_GLSL}\n${chunk.slice(to)}`;
}

/** The chunk of three's that reads shadows, as it includes it. */
export const SHADOW_CHUNK = 'shadowmap_pars_fragment';
export const softShadowChunk = (): string => softly(ShaderChunk[SHADOW_CHUNK]);

/** A lamp that throws shadows, as far as its softness is concerned. */
export interface ShadowLamp {
  readonly shadow: {
    readonly map: RenderTarget | null;
    readonly camera: PerspectiveCamera | OrthographicCamera;
    /** Which of the lamps it is: what is drawn is told so here. */
    radius: number;
  };
  /** Of an edge, in widths of the lamp's picture: half its width per metre; in perspective times both distances. */
  readonly width: number;
}

export class SoftShadows {
  private readonly cells = target(CELLS);
  private readonly around = target(CELLS * MOST_SHADOWS);
  private readonly nearest = pass(NEAREST, { depths: { value: null }, lamp: { value: new Vector4() } });
  private readonly widening = pass(AROUND, { cells: { value: null }, row: { value: 0 } });
  private readonly lamps = Array.from({ length: MOST_SHADOWS }, () => new Vector4(0, 1, 0, 0));
  private screen: Screen | null = null;
  readonly uniforms = { nearestToLamp: { value: this.around.texture }, shadowLamps: { value: this.lamps } };

  /** Looks up what stands nearest each lamp, once its shadows are drawn. @param soft in a still's samples, edges are sharp */
  take(renderer: WebGLRenderer, lamps: readonly ShadowLamp[], soft: boolean): void {
    this.screen ??= new Screen(renderer);
    const gl = renderer.getContext() as WebGL2RenderingContext;
    lamps.forEach(({ shadow: { map, camera }, width }, row) => {
      const lamp = this.lamps[row]!;
      lamp.set(camera.near, camera.far, soft ? width : 0, 'isPerspectiveCamera' in camera ? 1 : 0);
      const depths = map?.depthTexture;
      if (!soft || !depths) return;
      // three has the depths compared; here they are numbers.
      const plain = gl.createSampler();
      gl.samplerParameteri(plain, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
      gl.samplerParameteri(plain, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
      gl.bindSampler(0, plain);
      this.screen!.run(this.nearest, this.cells, { depths, lamp });
      gl.bindSampler(0, null);
      gl.deleteSampler(plain);
      this.around.viewport.set(0, row * CELLS, CELLS, CELLS);
      this.around.scissor.copy(this.around.viewport);
      this.screen!.run(this.widening, this.around, { cells: this.cells.texture, row });
    });
  }

  dispose(): void {
    for (const part of [this.cells, this.around, this.nearest, this.widening]) part.dispose();
    this.screen?.dispose();
  }
}

function target(height: number): WebGLRenderTarget {
  const made = new WebGLRenderTarget(CELLS, height, { type: HalfFloatType, depthBuffer: false });
  made.scissorTest = true;
  return made;
}
