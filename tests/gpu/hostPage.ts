/**
 * In a page: a host that knows nothing but an exported folder (its two shaders, `uniforms.json`, its images) and a mesh. It
 * lights what is lit by one far lamp, by the formulas of glTF 2.0, appendix B. Beside it the stage, without its optics.
 */
import { readEffect } from '../../src/core/effect/read.js';
import { readStage } from '../../src/core/scene/stage.js';
import { DataUtils, type BufferGeometry, type Matrix4 } from 'three';
import { pictureKey } from '../../src/core/effect/schema.js';
import { OpenScene, type SceneAssets } from '../../src/render/evaluate.js';
import { Graphics } from '../../src/render/graphics.js';
import type { StageRenderer } from '../../src/render/renderer.js';
import { readImage } from '../../src/core/formats/imageFile.js';

/** What is in a folder, as far as this host reads it. */
export interface Folder {
  readonly vertex: string;
  readonly fragment: string;
  readonly about: {
    readonly vec4s: number;
    readonly slots: readonly { vec4: number; component: string; leaf?: string; value: readonly number[] }[];
    readonly blending: { readonly mode: string; readonly source: string; readonly destination: string };
    readonly light?: string;
    readonly sides: 'front' | 'back' | 'both';
    readonly depthWrite: boolean;
    readonly targets: readonly string[];
    readonly held: Readonly<Record<string, readonly [number, number]>>;
    readonly attributes: readonly { readonly name: string; readonly components: number }[];
    readonly images: readonly { uniform: string; file: string | null; wrap: string; filter: string; colour: string }[];
  };
  /** By name: addresses of their bytes. */
  readonly files: Readonly<Record<string, string>>;
}
interface Mesh {
  readonly attributes: Readonly<Record<string, Float32Array>>;
  readonly index: Uint32Array;
  readonly model: readonly number[];
  readonly random: number;
}
interface Eye {
  readonly view: readonly number[];
  readonly projection: readonly number[];
  readonly place: readonly number[];
}
const SIZE = { width: 160, height: 120 };

class Host {
  private readonly gl = Object.assign(document.createElement('canvas'), SIZE).getContext('webgl2', { antialias: false })!;
  private readonly depth: WebGLTexture;
  private readonly opaqueColour: WebGLTexture;
  private readonly opaqueDepth: WebGLTexture;
  private readonly scene: WebGLFramebuffer;
  private readonly given: readonly WebGLTexture[];

  constructor(
    private readonly eye: Eye,
    private readonly lamp: { readonly from: readonly number[]; readonly colour: readonly number[] },
  ) {
    const { gl } = this;
    for (const name of ['EXT_color_buffer_float', 'OES_texture_float_linear', 'EXT_float_blend'])
      if (!gl.getExtension(name)) throw new Error(`no ${name}`);
    this.depth = this.texture(gl.DEPTH_COMPONENT32F, gl.DEPTH_COMPONENT, gl.FLOAT);
    this.opaqueColour = this.texture(gl.RGBA16F, gl.RGBA, gl.HALF_FLOAT, gl.LINEAR_MIPMAP_LINEAR);
    gl.generateMipmap(gl.TEXTURE_2D);
    this.opaqueDepth = this.texture(gl.R32F, gl.RED, gl.FLOAT);
    const light = this.texture(gl.RGBA32F, gl.RGBA, gl.FLOAT);
    this.scene = this.framebuffer([light]);
    gl.clearColor(0, 0, 0, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
    this.given = [0, 1, 2, 3].map(() => this.texture(gl.RGBA32F, gl.RGBA, gl.FLOAT));
    gl.viewport(0, 0, SIZE.width, SIZE.height);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.framebuffer([this.given[0]!], this.depth));
    gl.clearDepth(1);
    gl.clear(gl.DEPTH_BUFFER_BIT);
  }

  private texture(format: number, kind: number, type: number, smaller: number = this.gl.NEAREST): WebGLTexture {
    const { gl } = this;
    const made = gl.createTexture();
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, made);
    gl.texImage2D(gl.TEXTURE_2D, 0, format, SIZE.width, SIZE.height, 0, kind, type, null);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, smaller);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, smaller === gl.NEAREST ? gl.NEAREST : gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE);
    return made;
  }

  private framebuffer(colours: readonly WebGLTexture[], depth: WebGLTexture | null = null): WebGLFramebuffer {
    const { gl } = this;
    const made = gl.createFramebuffer();
    gl.bindFramebuffer(gl.FRAMEBUFFER, made);
    colours.forEach((c, k) => gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + k, gl.TEXTURE_2D, c, 0));
    if (depth) gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.TEXTURE_2D, depth, 0);
    gl.drawBuffers(colours.map((_, k) => gl.COLOR_ATTACHMENT0 + k));
    return made;
  }

  private program(vertex: string, fragment: string): WebGLProgram {
    const { gl } = this;
    const made = gl.createProgram();
    for (const [kind, text] of [
      [gl.VERTEX_SHADER, vertex],
      [gl.FRAGMENT_SHADER, fragment],
    ] as const) {
      const shader = gl.createShader(kind)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(`${gl.getShaderInfoLog(shader)}\n${text}`);
      gl.attachShader(made, shader);
    }
    gl.linkProgram(made);
    if (!gl.getProgramParameter(made, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(made) ?? 'no link');
    gl.useProgram(made);
    return made;
  }

  private bind(program: WebGLProgram, unit: number, name: string, texture: WebGLTexture): void {
    const { gl } = this;
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.uniform1i(gl.getUniformLocation(program, name), unit);
  }

  /** A pass over the whole picture. @param text of `main` and what it reads */
  private pass(text: string, textures: Readonly<Record<string, WebGLTexture>>, set: (program: WebGLProgram) => void): void {
    const { gl } = this;
    const program = this.program(
      '#version 300 es\nvoid main() { gl_Position = vec4(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0, 0.0, 1.0); }',
      `#version 300 es\nprecision highp float;\nout vec4 colour;\n${text}`,
    );
    Object.entries(textures).forEach(([name, t], k) => this.bind(program, k, name, t));
    set(program);
    gl.disable(gl.DEPTH_TEST);
    gl.disable(gl.CULL_FACE);
    gl.bindVertexArray(null);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** What is drawn so far is what see-through surfaces have behind them. */
  takeBehind(): void {
    const { gl } = this;
    gl.disable(gl.BLEND);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, this.scene);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, this.opaqueColour);
    const into = this.framebuffer([this.opaqueColour]);
    gl.bindFramebuffer(gl.READ_FRAMEBUFFER, this.scene);
    gl.bindFramebuffer(gl.DRAW_FRAMEBUFFER, into);
    gl.blitFramebuffer(0, 0, SIZE.width, SIZE.height, 0, 0, SIZE.width, SIZE.height, gl.COLOR_BUFFER_BIT, gl.NEAREST);
    gl.bindTexture(gl.TEXTURE_2D, this.opaqueColour);
    gl.generateMipmap(gl.TEXTURE_2D);
    this.framebuffer([this.opaqueDepth]);
    this.pass(
      `uniform highp sampler2D depth;
uniform mat4 projectionMatrix;
void main() {
  float z = texelFetch(depth, ivec2(gl_FragCoord.xy), 0).x * 2.0 - 1.0;
  colour = vec4(projectionMatrix[3].z / (z + projectionMatrix[2].z));
}`,
      { depth: this.depth },
      (p) => gl.uniformMatrix4fv(gl.getUniformLocation(p, 'projectionMatrix'), false, this.eye.projection),
    );
  }

  private async images(program: WebGLProgram, { about, files }: Folder): Promise<void> {
    const { gl } = this;
    for (const [k, { uniform, file, wrap, filter, colour }] of about.images.entries()) {
      if (file === null) throw new Error(`the image of ${uniform} is not in the folder`);
      const bitmap = await createImageBitmap(await (await fetch(files[file]!)).blob(), {
        ...{ premultiplyAlpha: 'none', colorSpaceConversion: 'none' },
      });
      gl.activeTexture(gl.TEXTURE4 + k);
      gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
      gl.texImage2D(gl.TEXTURE_2D, 0, colour === 'srgb' ? gl.SRGB8_ALPHA8 : gl.RGBA8, gl.RGBA, gl.UNSIGNED_BYTE, bitmap);
      if (filter !== 'nearest') gl.generateMipmap(gl.TEXTURE_2D);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, filter === 'nearest' ? gl.NEAREST : gl.LINEAR_MIPMAP_LINEAR);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, filter === 'nearest' ? gl.NEAREST : gl.LINEAR);
      const how = { repeat: gl.REPEAT, mirror: gl.MIRRORED_REPEAT, clamp: gl.CLAMP_TO_EDGE }[wrap]!;
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, how);
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, how);
      gl.uniform1i(gl.getUniformLocation(program, uniform), 4 + k);
    }
  }

  private block(program: WebGLProgram, { about }: Folder, time: number, random: number): void {
    const { gl } = this;
    const values = new Float32Array(about.vec4s * 4);
    const leaves: Record<string, number> = { time, timeRest: 0, propRandom: random };
    for (const { vec4, component, leaf, value } of about.slots)
      values.set(leaf && Object.hasOwn(leaves, leaf) ? [leaves[leaf]!] : value, vec4 * 4 + 'xyzw'.indexOf(component));
    const index = gl.getUniformBlockIndex(program, 'Effect');
    if (index === gl.INVALID_INDEX) return;
    gl.uniformBlockBinding(program, index, 0);
    gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, gl.createBuffer());
    gl.bufferData(gl.UNIFORM_BUFFER, values, gl.STATIC_DRAW);
  }

  /** Draws a mesh: what its surface is into the targets, then that, lit, into the picture. */
  async draw(folder: Folder, mesh: Mesh, time: number): Promise<void> {
    const { gl, eye } = this;
    const { about } = folder;
    const program = this.program(folder.vertex, folder.fragment);
    await this.images(program, folder);
    gl.useProgram(program);
    this.block(program, folder, time, mesh.random);
    const matrix = (name: string, values: readonly number[]) =>
      gl.uniformMatrix4fv(gl.getUniformLocation(program, name), false, values);
    matrix('modelMatrix', mesh.model);
    matrix('viewMatrix', eye.view);
    matrix('projectionMatrix', eye.projection);
    gl.uniform3fv(gl.getUniformLocation(program, 'cameraPosition'), eye.place);
    gl.uniform2f(gl.getUniformLocation(program, 'pictureSize'), SIZE.width, SIZE.height);
    this.bind(program, 0, 'opaqueColour', this.opaqueColour);
    this.bind(program, 1, 'opaqueDepth', this.opaqueDepth);
    const array = gl.createVertexArray();
    gl.bindVertexArray(array);
    for (const { name, components } of about.attributes) {
      const at = gl.getAttribLocation(program, name);
      if (at < 0) continue;
      const values = mesh.attributes[name];
      if (!values) throw new Error(`the mesh has no ${name}`);
      gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
      gl.bufferData(gl.ARRAY_BUFFER, values, gl.STATIC_DRAW);
      gl.enableVertexAttribArray(at);
      gl.vertexAttribPointer(at, components, gl.FLOAT, false, 0, 0);
    }
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer());
    gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, mesh.index, gl.STATIC_DRAW);
    // What is seen through shows its back first.
    const blends = about.blending.mode !== 'none' || folder.fragment.includes('sceneBehind(s.');
    const faces = about.sides === 'both' ? (blends ? ['back', 'front'] : ['both']) : [about.sides];
    for (const face of faces) {
      gl.useProgram(program);
      gl.bindVertexArray(array);
      this.framebuffer(this.given.slice(0, about.targets.length), this.depth);
      for (let k = 0; k < about.targets.length; k++) gl.clearBufferfv(gl.COLOR, k, [0, 0, 0, -1]);
      gl.disable(gl.BLEND);
      gl.enable(gl.DEPTH_TEST);
      gl.depthMask(about.depthWrite);
      if (face === 'both') gl.disable(gl.CULL_FACE);
      else {
        gl.enable(gl.CULL_FACE);
        gl.cullFace(face === 'back' ? gl.FRONT : gl.BACK);
      }
      [this.opaqueColour, this.opaqueDepth].forEach((t, k) => {
        gl.activeTexture(gl.TEXTURE0 + k);
        gl.bindTexture(gl.TEXTURE_2D, t);
      });
      gl.drawElements(gl.TRIANGLES, mesh.index.length, gl.UNSIGNED_INT, 0);
      this.show(folder);
    }
  }

  private show({ about }: Folder): void {
    const { gl, eye, lamp } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.scene);
    const [source, destination] = [about.blending.source, about.blending.destination];
    gl.enable(gl.BLEND);
    gl.blendFuncSeparate(
      source === 'one' ? gl.ONE : gl.SRC_ALPHA,
      { zero: gl.ZERO, one: gl.ONE }[destination] ?? gl.ONE_MINUS_SRC_ALPHA,
      gl.ZERO,
      gl.ONE,
    );
    const held = (name: string, text: string) => {
      const ends = about.held[name];
      return ends ? `clamp(${text}, ${ends.map((e) => e.toFixed(2)).join(', ')})` : text;
    };
    const lit = about.targets.length > 1;
    const text = lit
      ? `uniform highp sampler2D g0, g1, g2, g3;
uniform mat4 viewMatrix, projectionMatrix;
uniform vec3 lampFrom, lampColour;
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  vec4 eo = texelFetch(g0, at, 0), bm = texelFetch(g1, at, 0), nr = texelFetch(g2, at, 0), ro = texelFetch(g3, at, 0);
  if (eo.w == -1.0) discard;
  vec3 base = ${held('baseColour', 'bm.xyz')};
  float metal = ${held('metalness', 'bm.w')}, rough = max(${held('roughness', 'nr.w')}, 0.045), opacity = clamp(eo.w, 0.0, 1.0);
  vec2 p = gl_FragCoord.xy / vec2(${SIZE.width}.0, ${SIZE.height}.0) * 2.0 - 1.0;
  vec3 v = -normalize(transpose(mat3(viewMatrix)) * vec3((p + projectionMatrix[2].xy) / vec2(projectionMatrix[0].x, projectionMatrix[1].y), -1.0));
  vec3 n = normalize(nr.xyz), l = lampFrom, h = normalize(l + v);
  float a = rough * rough, nl = clamp(dot(n, l), 0.0, 1.0), nv = clamp(dot(n, v), 0.0, 1.0), nh = clamp(dot(n, h), 0.0, 1.0), vh = clamp(dot(v, h), 0.0, 1.0);
  float a2 = a * a, d = nh * nh * (a2 - 1.0) + 1.0;
  float D = a2 / (3.14159265 * d * d);
  float V = 0.5 / max(nl * sqrt(nv * nv * (1.0 - a2) + a2) + nv * sqrt(nl * nl * (1.0 - a2) + a2), 1e-6);
  float grazing = pow(1.0 - vh, 5.0);
  vec3 f0 = mix(vec3(ro.x), base, metal);
  vec3 F = f0 + (1.0 - f0) * grazing;
  vec3 plain = vec3(ro.x) + (1.0 - ro.x) * grazing;
  vec3 shone = nl * lampColour * (F * V * D + (1.0 - plain) * base * (1.0 - metal) / 3.14159265);
  colour = ${about.light ? 'vec4(shone * opacity + eo.xyz, 1.0)' : 'vec4(shone + eo.xyz, opacity)'};
}`
      : `uniform highp sampler2D g0;
void main() {
  vec4 c = texelFetch(g0, ivec2(gl_FragCoord.xy), 0);
  if (c.w == -1.0) discard;
  colour = vec4(c.xyz, clamp(c.w, 0.0, 1.0));
}`;
    const textures = Object.fromEntries(this.given.slice(0, about.targets.length).map((t, k) => [`g${k}`, t]));
    this.pass(text, textures, (p) => {
      if (!lit) return;
      gl.uniformMatrix4fv(gl.getUniformLocation(p, 'viewMatrix'), false, eye.view);
      gl.uniformMatrix4fv(gl.getUniformLocation(p, 'projectionMatrix'), false, eye.projection);
      gl.uniform3fv(gl.getUniformLocation(p, 'lampFrom'), lamp.from);
      gl.uniform3fv(gl.getUniformLocation(p, 'lampColour'), lamp.colour);
    });
  }

  /** Light, RGBA, rows from the bottom. */
  read(): Float32Array {
    const { gl } = this;
    const out = new Float32Array(SIZE.width * SIZE.height * 4);
    gl.bindFramebuffer(gl.FRAMEBUFFER, this.scene);
    gl.readPixels(0, 0, SIZE.width, SIZE.height, gl.RGBA, gl.FLOAT, out);
    if (gl.getError() !== gl.NO_ERROR) throw new Error('WebGL complains');
    return out;
  }
}

/** What the stage has of a prop: the mesh as any file of it would have it. */
function meshOf(renderer: StageRenderer, prop: string, random: number): Mesh {
  const mesh = renderer.scenery.meshOf(prop)!;
  const geometry: BufferGeometry = mesh.geometry;
  mesh.updateMatrixWorld();
  const count = geometry.getAttribute('position').count;
  const attributes = Object.fromEntries(
    Object.entries(geometry.attributes).map(([name, attribute]) => [
      name,
      Float32Array.from({ length: count * attribute.itemSize }, (_, k) =>
        attribute.getComponent(Math.floor(k / attribute.itemSize), k % attribute.itemSize),
      ),
    ]),
  );
  const index = geometry.getIndex();
  return {
    attributes: { vertexColour: new Float32Array(count * 4).fill(1), ...attributes },
    index: index ? Uint32Array.from(index.array) : Uint32Array.from({ length: count }, (_, k) => k),
    model: mesh.matrixWorld.elements,
    random,
  };
}

/** The picture of the stage as it is before its optics, without the samples of a still. */
async function light(renderer: StageRenderer): Promise<Float32Array> {
  const drawn = renderer.frame.drawn!;
  const { width, height } = drawn;
  if (width !== SIZE.width || height !== SIZE.height) throw new Error(`the stage is drawn at ${width} x ${height}`);
  const halves = new Uint16Array(width * height * 4);
  await renderer.graphics.renderer.readRenderTargetPixelsAsync(drawn, 0, 0, width, height, halves);
  return Float32Array.from(halves, (v) => DataUtils.fromHalfFloat(v));
}

export interface Job {
  readonly stage: unknown;
  readonly effect: unknown;
  readonly backdrop: unknown;
  readonly folders: { readonly ball: Folder; readonly backdrop: Folder };
  readonly images: Readonly<Record<string, string>>;
  /** Of each prop, by its seed. */
  readonly random: { readonly ball: number; readonly backdrop: number };
  readonly times: readonly number[];
}

/** @returns at each time, light of the stage and of the host: RGB, rows from the bottom */
export async function both(job: Job): Promise<{ stage: number[]; host: number[] }[]> {
  const [s, e, b] = [readStage(job.stage), readEffect(job.effect), readEffect(job.backdrop)];
  if (!s.ok || !e.ok || !b.ok) throw new Error('a document does not read');
  const assets: SceneAssets = {
    mesh: () => Promise.reject(new Error('none')),
    paint: () => Promise.reject(new Error('none')),
    picture: async (asset) => {
      const bytes = new Uint8Array(await (await fetch(job.images[asset.sha256]!)).arrayBuffer());
      return readImage(bytes, asset.colour, async (data, type) => {
        const bitmap = await createImageBitmap(new Blob([data], { type }), {
          premultiplyAlpha: 'none',
          colorSpaceConversion: 'none',
        });
        const canvas = new OffscreenCanvas(bitmap.width, bitmap.height);
        const context = canvas.getContext('2d')!;
        context.drawImage(bitmap, 0, 0);
        return context.getImageData(0, 0, bitmap.width, bitmap.height);
      });
    },
    panorama: () => Promise.resolve(null),
    pictures: new Map(),
  };
  for (const asset of Object.values(e.effect.assets))
    (assets.pictures as Map<string, unknown>).set(pictureKey(asset), await assets.picture(asset));
  const graphics = new Graphics(document.createElement('canvas'));
  const documents = { effect: e.effect, stage: s.stage, others: new Map([[b.effect.id, b.effect]]) };
  const scene = await OpenScene.open(graphics, { documents, assets });
  const { renderer } = scene as unknown as { renderer: StageRenderer };
  const out: { stage: number[]; host: number[] }[] = [];
  for (const time of job.times) {
    await scene.picture({ time, size: SIZE, samples: 1, raw: true });
    const stage = await light(renderer);
    const { camera } = renderer;
    const eye: Eye = {
      view: (camera.matrixWorldInverse as Matrix4).elements,
      projection: camera.projectionMatrix.elements,
      place: camera.position.toArray(),
    };
    const { place, target, rgb, intensity } = s.stage.lights[0]!;
    const away = place.map((v, k) => v - target[k]!);
    const from = away.map((v) => v / Math.hypot(...away));
    const host = new Host(eye, { from, colour: rgb.map((c) => c * intensity * Math.PI) });
    await host.draw(job.folders.backdrop, meshOf(renderer, 'backdrop', job.random.backdrop), time);
    host.takeBehind();
    await host.draw(job.folders.ball, meshOf(renderer, 'ball', job.random.ball), time);
    const rgbOf = (all: Float32Array) => [...all].filter((_, k) => k % 4 < 3);
    out.push({ stage: rgbOf(stage), host: rgbOf(host.read()) });
  }
  scene.dispose();
  graphics.dispose();
  return out;
}
