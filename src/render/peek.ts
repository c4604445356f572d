/** Peek: one value of the sheet, as it is, on the surfaces that wear it; the rest of the picture steps back to grey. */
import {
  FloatType,
  GLSL3,
  Mesh,
  NearestFilter,
  RawShaderMaterial,
  Scene,
  WebGLRenderTarget,
  type PerspectiveCamera,
  type WebGLRenderer,
} from 'three';
import type { Finish } from '../core/effect/schema.js';
import type { PeekLook } from '../core/analysis/peek.js';
import type { GlslText } from '../core/targets/glsl.js';
import { isSeeThrough } from '../core/targets/ending.js';
import { FINITE_GLSL, callOf, shaderParts } from '../core/targets/glslPair.js';
import { HEAD, SIDES, SIDE_GLSL, declare, functions, vertexShaderOf } from './effectMaterial.js';
import type { ProgramState } from './programState.js';
import { Screen, pass } from './screen.js';
import { PEEK_COPY, PEEK_DISPLAY } from './shaders.js';
import { binding, upload } from './uniformBlock.js';

/** A prop to peek at, in a program whose `emission` is the value. */
export interface PeekedProp {
  readonly prop: string;
  readonly text: GlslText;
  readonly finish: Finish;
}

/** Pixels that a peek's numbers are taken of. */
const LOOKED_AT = { width: 192, height: 120 };
const MODES = { unit: 0, range: 1, signed: 2 } as const;

function valueMaterial(text: GlslText, finish: Finish, state: ProgramState): RawShaderMaterial {
  const { fragment } = text;
  const parts = shaderParts(text);
  return new RawShaderMaterial({
    glslVersion: GLSL3,
    side: SIDES[finish.sides],
    uniforms: {
      ...state.sceneUniforms(isSeeThrough(finish)),
      ...state.imageUniforms(text),
      frontDepth: state.opaqueDepth,
    },
    vertexShader: vertexShaderOf(text, parts),
    fragmentShader: `${HEAD}
${declare('in', parts.varyings)}
out vec4 value;
uniform highp sampler2D frontDepth;
const float winding = ${finish.sides === 'back' ? '-1.0' : '1.0'};
${parts.usesEye ? 'uniform mat4 modelMatrix;\nuniform mat4 viewMatrix;\nuniform vec3 cameraPosition;' : ''}
${parts.sceneText}
${functions(text, fragment)}
${FINITE_GLSL}
// Something opaque stands before it. It may be opaque itself, and stand in its own place.
bool isHidden() {
  ivec2 last = textureSize(frontDepth, 0) - 1;
  float d = 0.0;
  for (int y = -1; y <= 1; y++)
    for (int x = -1; x <= 1; x++)
      d = max(d, texelFetch(frontDepth, clamp(ivec2(gl_FragCoord.xy) + ivec2(x, y), ivec2(0), last), 0).x);
  return d < 0.998 / gl_FragCoord.w - 0.002;
}
void main() {
  if (isHidden()) discard;
  ${SIDE_GLSL}
  Surface s = ${callOf(fragment, 'surface')};
  value = isFinite(s.emission) ? vec4(s.emission, 1.0) : vec4(0.0, 0.0, 0.0, 2.0);
}`,
  });
}

interface Stand {
  readonly text: GlslText;
  readonly mesh: Mesh;
  readonly buffer: WebGLBuffer;
}

export class PeekPass {
  private readonly screen: Screen;
  private readonly scene = new Scene();
  private readonly materials = new Map<string, RawShaderMaterial>();
  private stands = new Map<string, Stand>();
  private target: WebGLRenderTarget | null = null;
  private turn = 0;
  private readonly looked = new WebGLRenderTarget(LOOKED_AT.width, LOOKED_AT.height, {
    type: FloatType,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
  });
  private readonly showing = pass(PEEK_DISPLAY, {
    picture: { value: null },
    values: { value: null },
    exposure: { value: 1 },
    lanes: { value: 1 },
    isColour: { value: false },
    mode: { value: 0 },
    range: { value: [0, 1] },
  });
  private readonly copying = pass(PEEK_COPY, { values: { value: null } });

  constructor(
    private readonly renderer: WebGLRenderer,
    private readonly state: ProgramState,
  ) {
    this.screen = new Screen(renderer);
  }

  private get gl(): WebGL2RenderingContext {
    return this.renderer.getContext() as WebGL2RenderingContext;
  }

  /** Something is peeked at. */
  get on(): boolean {
    return this.stands.size > 0;
  }

  /**
   * Peeks at other props or another value; none ends it. What is peeked at stays until the programs are ready.
   * @param meshOf the prop's mesh, whose shape and place are taken
   * @returns false when a later call overtook this one
   */
  async wear(
    peeked: readonly PeekedProp[],
    meshOf: (prop: string) => Mesh | undefined,
    camera: PerspectiveCamera,
    fit: (mesh: Mesh, text: GlslText) => Mesh['geometry'],
  ): Promise<boolean> {
    const turn = ++this.turn;
    const keyOf = ({ text, finish }: PeekedProp) =>
      [
        text.block,
        text.fragment.library,
        text.fragment.code,
        text.vertex?.library,
        text.vertex?.code,
        finish.sides,
        isSeeThrough(finish),
      ].join('\n');
    const fresh = new Scene();
    const used = new Map<string, RawShaderMaterial>();
    const stands = new Map<string, Mesh>();
    for (const one of peeked) {
      const mesh = meshOf(one.prop);
      if (!mesh) continue;
      const key = keyOf(one);
      const material = used.get(key) ?? this.materials.get(key) ?? valueMaterial(one.text, one.finish, this.state);
      used.set(key, material);
      const stand = new Mesh(fit(mesh, one.text), material);
      stand.matrixAutoUpdate = false;
      stand.frustumCulled = false;
      stands.set(one.prop, stand);
      if (!this.materials.has(key)) fresh.add(stand.clone());
    }
    if (fresh.children.length > 0) await this.renderer.compileAsync(fresh, camera);
    if (turn !== this.turn) {
      for (const [key, material] of used) if (!this.materials.has(key)) material.dispose();
      return false;
    }
    const { gl } = this;
    for (const { mesh, buffer } of this.stands.values()) {
      mesh.removeFromParent();
      gl.deleteBuffer(buffer);
    }
    this.stands = new Map();
    for (const { prop, text } of peeked) {
      const mesh = stands.get(prop);
      if (!mesh) continue;
      const buffer = gl.createBuffer()!;
      mesh.onBeforeRender = binding(gl, buffer);
      this.stands.set(prop, { text, mesh, buffer });
      this.scene.add(mesh);
    }
    // A few are kept: a peek comes and goes.
    for (const [key, material] of used) this.materials.set(key, material);
    for (const [key, material] of this.materials) {
      if (this.materials.size <= 8 || used.has(key)) continue;
      material.dispose();
      this.materials.delete(key);
    }
    return true;
  }

  /** The numbers of the program in which a prop is peeked at. */
  setBlock(prop: string, text: GlslText, block: Float32Array<ArrayBuffer>): void {
    const stand = this.stands.get(prop);
    if (stand?.text === text) upload(this.gl, stand.buffer, block);
  }

  /**
   * Draws the values, then the picture with them in it.
   * @param picture the scene, its depth behind the programs; @param into null for the canvas
   */
  draw(
    picture: WebGLRenderTarget,
    camera: PerspectiveCamera,
    meshOf: (prop: string) => Mesh | undefined,
    exposure: number,
    look: PeekLook,
    into: WebGLRenderTarget | null,
  ): void {
    const { width, height } = picture;
    if (this.target?.width !== width || this.target.height !== height) {
      this.target?.dispose();
      this.target = new WebGLRenderTarget(width, height, { type: FloatType, minFilter: NearestFilter, magFilter: NearestFilter });
    }
    for (const [prop, { mesh }] of this.stands) {
      const own = meshOf(prop);
      mesh.visible = own?.visible ?? false;
      if (own) mesh.matrix.copy(own.matrixWorld);
    }
    const clear = this.renderer.getClearAlpha();
    this.renderer.setClearAlpha(0);
    this.renderer.setRenderTarget(this.target);
    this.renderer.render(this.scene, camera);
    this.renderer.setClearAlpha(clear);
    this.screen.run(this.showing, into, {
      picture: picture.texture,
      values: this.target.texture,
      exposure: 2 ** exposure,
      lanes: look.lanes,
      isColour: look.colour,
      mode: MODES[look.mode],
      range: [look.low, look.high],
    });
  }

  /** Values where the surfaces are seen, four numbers each: three of the value, then 0 no surface, 1 numbers, 2 none. */
  async read(): Promise<Float32Array | null> {
    if (!this.target || !this.on) return null;
    const { width, height } = LOOKED_AT;
    this.screen.run(this.copying, this.looked, { values: this.target.texture });
    this.renderer.setRenderTarget(null);
    const values = new Float32Array(width * height * 4);
    await this.renderer.readRenderTargetPixelsAsync(this.looked, 0, 0, width, height, values);
    return values;
  }

  /** Every pixel's value, rows from the bottom: three numbers, then 0 no surface, 1 numbers, 2 none. */
  async values(): Promise<Float32Array> {
    const { width, height } = this.target!;
    const out = new Float32Array(width * height * 4);
    await this.renderer.readRenderTargetPixelsAsync(this.target!, 0, 0, width, height, out);
    return out;
  }

  dispose(): void {
    this.target?.dispose();
    for (const { buffer } of this.stands.values()) this.gl.deleteBuffer(buffer);
    for (const material of this.materials.values()) material.dispose();
    for (const part of [this.looked, this.showing, this.copying, this.screen]) part.dispose();
  }
}
