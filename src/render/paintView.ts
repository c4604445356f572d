/**
 * Vertex paint as it is painted: one channel in grey or three in colour on the mesh at rest, its sides, and the brush on
 * it. Drawn over the finished picture, so that the numbers are seen as they are and the rest of the stage as it will be.
 */
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  GLSL3,
  LineSegments,
  Mesh,
  Points,
  RawShaderMaterial,
  Scene,
  Vector2,
  Vector3,
  Vector4,
  WebGLRenderTarget,
  type PerspectiveCamera,
  type WebGLRenderer,
} from 'three';
import type { Channel, Paint } from '../core/paint/paint.js';
import type { Prepared } from '../core/paint/prepared.js';
import type { Size } from './frame.js';
import type { ProgramState } from './programState.js';
import { Screen, pass } from './screen.js';

/** One channel in grey, three in colour, or the effect with nothing but the brush over it. */
export const PAINT_VIEWS = ['grey', 'colour', 'effect'] as const;
export type PaintViewName = (typeof PAINT_VIEWS)[number];

export interface PaintLook {
  readonly view: PaintViewName;
  readonly channel: Channel;
}

/** Where the brush is, on the stage. */
export interface BrushAt {
  readonly middle: readonly [number, number, number];
  /** Metres. */
  readonly radius: number;
  /** The share of the radius over which it fades. */
  readonly falloff: number;
}

/** Samples a pixel; of a mesh of more than `LARGE` vertices one, without which every stroke waits where there is no graphics card. */
const SAMPLES = 4;
const LARGE = 30_000;
/** Sides of triangles that are drawn nearer together than this many pixels are a grey mush; from twice as many on all are seen. */
const NEAREST_SIDES = 6;

const HEAD = `precision highp float;
precision highp int;
`;

const VERTEX = `${HEAD}
in vec3 position;
in vec4 paint;
uniform mat4 modelMatrix, viewMatrix, projectionMatrix;
uniform float towards, size;
out vec3 world;
out vec4 value;
void main() {
  vec4 there = modelMatrix * vec4(position, 1.0);
  world = there.xyz;
  value = paint;
  gl_Position = projectionMatrix * viewMatrix * there;
  gl_Position.z -= towards * gl_Position.w;
  gl_PointSize = size;
}`;

/** What stands before the mesh hides it, by the depth of the opaque scene; colours are as a screen has them, times cover. */
const FRAGMENT_HEAD = `${HEAD}
in vec3 world;
in vec4 value;
out vec4 shown;
uniform highp sampler2D frontDepth;
uniform vec2 drawn;
uniform int around; // texels to each side of a place, where the mesh itself may be what is in front
const vec3 WISP = vec3(0.776, 0.949, 0.427);
bool isHidden() {
  ivec2 size = textureSize(frontDepth, 0);
  ivec2 at = ivec2(gl_FragCoord.xy / drawn * vec2(size));
  float d = 0.0;
  for (int y = -around; y <= around; y++)
    for (int x = -around; x <= around; x++)
      d = max(d, texelFetch(frontDepth, clamp(at + ivec2(x, y), ivec2(0), size - 1), 0).x);
  return d < 0.998 / gl_FragCoord.w - 0.002;
}
`;

const SURFACE = `${FRAGMENT_HEAD}
uniform vec4 channel;
uniform int view; // 0 one channel, 1 three, 2 none
uniform vec3 middle;
uniform float radius, inner;
float ring(float d, float at, float pixels) {
  float pixel = max(fwidth(d), 1e-6);
  return 1.0 - smoothstep(pixels * 0.5 - 0.25, pixels * 0.5 + 0.75, abs(d - at) / pixel);
}
void main() {
  float d = distance(world, middle);
  float outer = radius > 0.0 ? ring(d, radius, 2.5) : 0.0;
  float within = radius > 0.0 && inner > 0.0 ? 0.75 * ring(d, inner, 1.5) : 0.0;
  if (isHidden()) discard;
  vec3 c = view == 0 ? vec3(dot(value, channel)) : value.rgb;
  float cover = view == 2 ? 0.0 : 1.0;
  float line = max(outer, within);
  shown = vec4(mix(c * cover, WISP, line), mix(cover, 1.0, line));
}`;

const SIDES = `${FRAGMENT_HEAD}
uniform float strength;
void main() {
  if (isHidden()) discard;
  shown = vec4(vec3(0.467, 0.416, 0.588), 1.0) * strength;
}`;

const DOTS = `${FRAGMENT_HEAD}
uniform vec3 dot;
uniform float strength;
void main() {
  float r = length(gl_PointCoord - 0.5) * 2.0;
  if (r > 1.0 || isHidden()) discard;
  shown = vec4(dot, 1.0) * strength;
}`;

const COPY = `${HEAD}
in vec2 vUv;
out vec4 colour;
uniform sampler2D picture;
void main() { colour = texture(picture, vUv); }`;

const LAY_OVER = `${HEAD}
in vec2 vUv;
out vec4 colour;
uniform sampler2D picture;
uniform sampler2D over;
void main() {
  vec4 o = texture(over, vUv);
  colour = vec4(texture(picture, vUv).rgb * (1.0 - o.a) + o.rgb, 1.0);
}`;

const CHANNEL = [new Vector4(1, 0, 0, 0), new Vector4(0, 1, 0, 0), new Vector4(0, 0, 1, 0), new Vector4(0, 0, 0, 1)];
const INK = new Vector3(0.925, 0.906, 0.953);
const WISP = new Vector3(0.776, 0.949, 0.427);

/** A prop that is painted, as three draws it. */
interface Canvas {
  readonly of: () => Mesh | undefined;
  readonly surface: Mesh;
  readonly sides: LineSegments;
  readonly touched: Points;
  readonly picked: Points;
  readonly paint: BufferAttribute;
  /** Metres of the prop's own, in the mean. */
  readonly side: number;
}

export class PaintView {
  private readonly screen: Screen;
  private readonly scene = new Scene();
  private readonly shared: Record<'frontDepth' | 'drawn' | 'around', { value: unknown }>;
  private readonly materials: Record<'surface' | 'sides' | 'touched' | 'picked', RawShaderMaterial>;
  private readonly over = new WebGLRenderTarget(1, 1, { samples: SAMPLES });
  /** The picture without the paint, which only what moves beneath it changes. */
  private readonly beneath = new WebGLRenderTarget(1, 1, { depthBuffer: false });
  private readonly laying = pass(LAY_OVER, { picture: { value: null }, over: { value: null } });
  private readonly copying = pass(COPY, { picture: { value: null } });
  private canvas: Canvas | null = null;
  look: PaintLook = { view: 'grey', channel: 0 };
  brush: BrushAt | null = null;

  constructor(
    private readonly renderer: WebGLRenderer,
    { opaqueDepth }: ProgramState,
  ) {
    this.screen = new Screen(renderer);
    this.shared = { frontDepth: opaqueDepth, drawn: { value: new Vector2(1, 1) }, around: { value: 0 } };
    const material = (fragmentShader: string, towards: number, size: number, more: Record<string, { value: unknown }>) =>
      new RawShaderMaterial({
        ...{ glslVersion: GLSL3, side: DoubleSide, vertexShader: VERTEX, fragmentShader },
        uniforms: { ...this.shared, towards: { value: towards }, size: { value: size }, ...more },
        ...(towards > 0 ? { transparent: true, premultipliedAlpha: true, depthWrite: false } : {}),
      });
    this.materials = {
      surface: material(SURFACE, 0, 1, {
        ...{ channel: { value: CHANNEL[0] }, view: { value: 0 }, middle: { value: new Vector3() } },
        ...{ radius: { value: 0 }, inner: { value: 0 } },
      }),
      sides: material(SIDES, 2e-4, 1, { strength: { value: 0 } }),
      touched: material(DOTS, 4e-4, 3, { dot: { value: WISP }, strength: { value: 0.9 } }),
      picked: material(DOTS, 6e-4, 9, { dot: { value: INK }, strength: { value: 1 } }),
    };
  }

  /** Something is painted. */
  get on(): boolean {
    return this.canvas !== null;
  }

  /** The mesh whose place the paint takes in the picture: it is not drawn beside it. */
  get stands(): Mesh | null {
    return this.look.view === 'effect' ? null : (this.canvas?.of() ?? null);
  }

  /** @param of the mesh, as it is when it is asked for @param base its geometry at rest */
  show(of: Canvas['of'], base: BufferGeometry, paint: Paint, { sides: between, side }: Pick<Prepared, 'sides' | 'side'>): void {
    this.hide();
    const position = base.getAttribute('position');
    const index = base.getIndex();
    // Arrays are shared, what the graphics card has of them is not: letting go of these leaves the prop's own.
    const places = new BufferAttribute(position.array, 3);
    const value = new BufferAttribute(paint.slice(), 4);
    const made = (order: ArrayLike<number> | null) => {
      const geometry = new BufferGeometry().setAttribute('position', places).setAttribute('paint', value);
      return order
        ? geometry.setIndex(new BufferAttribute(order instanceof Uint32Array ? order : Uint32Array.from(order), 1))
        : geometry;
    };
    const { surface, sides, touched, picked } = this.materials;
    const canvas: Canvas = {
      ...{ of, paint: value, side },
      surface: new Mesh(made(index?.array ?? null), surface),
      sides: new LineSegments(made(between), sides),
      touched: new Points(made([]), touched),
      picked: new Points(made([]), picked),
    };
    for (const one of [canvas.surface, canvas.sides, canvas.touched, canvas.picked]) {
      one.matrixAutoUpdate = false;
      one.frustumCulled = false;
      this.scene.add(one);
    }
    const samples = position.count > LARGE ? 0 : SAMPLES;
    if (this.over.samples !== samples) {
      this.over.dispose();
      this.over.samples = samples;
    }
    canvas.sides.renderOrder = 1;
    canvas.touched.renderOrder = 2;
    canvas.picked.renderOrder = 3;
    this.canvas = canvas;
  }

  hide(): void {
    const { canvas } = this;
    this.canvas = null;
    this.brush = null;
    if (!canvas) return;
    for (const one of [canvas.surface, canvas.sides, canvas.touched, canvas.picked]) {
      one.removeFromParent();
      one.geometry.dispose();
    }
  }

  /** The paint as it has become. @param values one a vertex of one channel, or four of all */
  repaint(values: ArrayLike<number>, channel: Channel | null): void {
    const paint = this.canvas?.paint;
    if (!paint) return;
    if (channel === null) paint.array.set(values);
    else for (let v = 0; v < values.length; v++) paint.array[v * 4 + channel] = values[v]!;
    paint.needsUpdate = true;
  }

  /** Vertices that the brush reaches, and those that are picked. */
  mark(which: 'touched' | 'picked', vertices: ArrayLike<number>): void {
    const points = this.canvas?.[which];
    if (!points) return;
    const old = points.geometry.getIndex();
    if (old && old.count >= vertices.length) {
      (old.array as Uint32Array).set(vertices);
      old.needsUpdate = true;
    } else {
      // A new size is a new buffer, and three wants a new geometry for that; with room for more, so that few are made.
      const { position, paint } = points.geometry.attributes;
      const order = new Uint32Array(2 * vertices.length);
      order.set(vertices);
      const { geometry } = points;
      points.geometry = new BufferGeometry().setAttribute('position', position!).setAttribute('paint', paint!);
      points.geometry.setIndex(new BufferAttribute(order, 1));
      // Letting go of the old one takes what it shares with it.
      geometry.deleteAttribute('position').deleteAttribute('paint');
      geometry.dispose();
    }
    points.geometry.setDrawRange(0, vertices.length);
  }

  /** The finished picture goes here instead of where it is shown, which `draw` does. @param size in pixels */
  under({ width, height }: Size): WebGLRenderTarget {
    for (const target of [this.beneath, this.over])
      if (target.width !== width || target.height !== height) target.setSize(width, height);
    return this.beneath;
  }

  /** Draws the paint over what is under it. @param into null for the canvas */
  draw(camera: PerspectiveCamera, into: WebGLRenderTarget | null): void {
    const { canvas, materials, beneath } = this;
    const of = canvas?.of();
    if (!canvas || !of) {
      this.screen.run(this.copying, into, { picture: beneath.texture });
      return;
    }
    const { surface, sides } = materials;
    (this.shared.drawn.value as Vector2).set(beneath.width, beneath.height);
    this.shared.around.value = this.look.view === 'effect' ? 1 : 0;
    surface.uniforms.channel!.value = CHANNEL[this.look.channel];
    surface.uniforms.view!.value = { grey: 0, colour: 1, effect: 2 }[this.look.view];
    (surface.uniforms.middle!.value as Vector3).set(...(this.brush?.middle ?? [0, 0, 0]));
    surface.uniforms.radius!.value = this.brush?.radius ?? 0;
    surface.uniforms.inner!.value = this.brush ? this.brush.radius * (1 - this.brush.falloff) : 0;
    sides.uniforms.strength!.value = this.sidesSeen(camera, of, canvas.side);
    canvas.sides.visible = sides.uniforms.strength!.value > 0;
    canvas.touched.visible = this.brush !== null;
    for (const one of [canvas.surface, canvas.sides, canvas.touched, canvas.picked]) one.matrix.copy(of.matrixWorld);
    const clear = this.renderer.getClearAlpha();
    this.renderer.setClearAlpha(0);
    this.renderer.setRenderTarget(this.over);
    this.renderer.render(this.scene, camera);
    this.renderer.setClearAlpha(clear);
    this.screen.run(this.laying, into, { picture: beneath.texture, over: this.over.texture });
  }

  /** How strongly sides are seen: not at all where they would lie closer than eyes can part. */
  private sidesSeen(camera: PerspectiveCamera, of: Mesh, side: number): number {
    const away = new Vector3().setFromMatrixPosition(of.matrixWorld).distanceTo(camera.position);
    const pixel = (2 * Math.max(0.05, away) * Math.tan((camera.fov * Math.PI) / 360)) / this.beneath.height;
    const pixels = (side * of.matrixWorld.getMaxScaleOnAxis()) / pixel;
    const seen = Math.max(0, Math.min(1, (pixels - NEAREST_SIDES) / NEAREST_SIDES));
    return (this.look.view === 'effect' ? 0.25 : 0.5) * seen;
  }

  dispose(): void {
    this.hide();
    for (const part of [this.over, this.beneath, this.laying, this.copying, this.screen, ...Object.values(this.materials)])
      part.dispose();
  }
}
