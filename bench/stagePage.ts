/** In a page: a stage of Wispen and a plain scene of three.js with the same meshes, materials and passes, frame by frame. */
import {
  AdditiveBlending,
  AmbientLight,
  DepthTexture,
  DirectionalLight,
  DynamicDrawUsage,
  FloatType,
  GLSL3,
  HalfFloatType,
  InstancedMesh,
  LinearFilter,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshStandardMaterial,
  OrthographicCamera,
  PCFShadowMap,
  PerspectiveCamera,
  PlaneGeometry,
  PointLight,
  RawShaderMaterial,
  Scene,
  SphereGeometry,
  WebGLRenderTarget,
  WebGLRenderer,
  type Texture,
} from 'three';
import { MOST_MOTES } from '../src/core/scene/motes.js';
import type { Stage } from '../src/core/scene/stage.js';
import { bloomLevels } from '../src/core/optics/bloom.js';
import type { Effect } from '../src/core/effect/schema.js';
import { paramValues } from '../src/core/lower/params.js';
import { Graphics } from '../src/render/graphics.js';
import { StageRenderer } from '../src/render/renderer.js';
import { Materials } from '../src/core/scene/materials.js';
import { DISPLAY, DOWN, PREFILTER, SCREEN_VERTEX, UP } from '../src/render/shaders.js';

export interface Worn {
  readonly prop: string;
  readonly effect: Effect;
}

const [WIDTH, HEIGHT] = [640, 400];
/** Lights that a scene made by hand would have in the stead of the spill. */
const LAMPS = 6;
let ours: { draw: (time: number) => void } | null = null;
let plain: { draw: (time: number) => void } | null = null;

/** Until it has been drawn: only numbers that come back say so. */
function wait(canvas: HTMLCanvasElement): void {
  const gl = canvas.getContext('webgl2')!;
  gl.bindFramebuffer(gl.FRAMEBUFFER, null);
  gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
}

/** @param motes the effect of the stage's mote fields, if it has any */
export async function setOurs(stage: Stage, worn: readonly Worn[], motes: Effect | null = null): Promise<void> {
  const canvas = document.createElement('canvas');
  const renderer = new StageRenderer(new Graphics(canvas));
  renderer.resize({ width: WIDTH, height: HEIGHT });
  renderer.setStage(stage);
  renderer.looking.from(stage.viewpoints[0]!);
  const pictures = new Map();
  const materials = new Materials(pictures);
  await renderer.dressing.dress(
    worn.map(({ prop, effect }) => {
      const { program, material } = materials.of(effect);
      return { prop, shown: effect, program, material: material!, params: paramValues(program.params, effect) };
    }),
  );
  if (motes) {
    const { program, material } = materials.of(motes);
    const made = { shown: motes, program, material: material!, params: paramValues(program.params, motes) };
    renderer.dressing.bring({ lights: [], copies: [], motes: stage.motes.map((field) => ({ field, ...made })) });
  }
  ours = {
    draw: (time) => {
      renderer.dressing.fill(stage, time, pictures);
      renderer.frame.draw({ adapt: false });
      wait(canvas);
    },
  };
}

/** The same meshes: a lit glowing ball, a see-through one over it, a floor; the same light. */
function plainScene(stage: Stage) {
  const view = stage.viewpoints[0]!;
  const camera = new PerspectiveCamera(view.fov, WIDTH / HEIGHT, 0.05, 100);
  camera.position.set(...view.eye);
  camera.lookAt(...view.target);
  const [opaque, through] = [new Scene(), new Scene()];
  for (const scene of [opaque, through]) {
    const key = new DirectionalLight(0xffffff, 1.5);
    key.position.set(...stage.lights[0]!.place);
    key.castShadow = true;
    key.shadow.mapSize.set(1024, 1024);
    Object.assign(key.shadow.camera, { left: -4, right: 4, top: 4, bottom: -4, near: 0.1, far: 20 });
    scene.add(key, new AmbientLight(0xffffff, 0.3));
    for (let k = 0; k < LAMPS; k++) scene.add(new PointLight(0xffffff, 0, 0, 2));
  }
  const place = (mesh: Mesh, id: string) => {
    const prop = stage.props.find((p) => p.id === id)!;
    mesh.position.set(...prop.place);
    mesh.castShadow = mesh.receiveShadow = true;
    return mesh;
  };
  const glow = new MeshStandardMaterial({ emissive: 0x44ffaa, emissiveIntensity: 4 });
  opaque.add(place(new Mesh(new SphereGeometry(0.4, 96, 48), glow), 'ball'));
  const floor = new Mesh(new PlaneGeometry(24, 24), new MeshStandardMaterial({ color: 0x333333 }));
  floor.rotation.x = -Math.PI / 2;
  floor.receiveShadow = true;
  opaque.add(floor);
  const pane = new MeshStandardMaterial({ emissive: 0x2244ff, transparent: true, blending: AdditiveBlending, depthWrite: false });
  through.add(place(new Mesh(new SphereGeometry(0.6, 96, 48), pane), 'shell'));
  const moving: InstancedMesh[] = [];
  for (const field of stage.motes) {
    const count = Math.min(MOST_MOTES, Math.round(field.rate * field.life));
    const dots = new InstancedMesh(
      new PlaneGeometry(2 * field.size, 2 * field.size),
      new MeshBasicMaterial({ color: 0x33ff88, transparent: true, opacity: 0.3, blending: AdditiveBlending, depthWrite: false }),
      count,
    );
    const at = new Matrix4();
    const size = field.from.kind === 'box' ? field.from.size : [1, 1, 1];
    // Where they stand matters to nothing but how many pixels they fill.
    for (let k = 0; k < count; k++) {
      const [x, y, z] = [0.618034, 0.7548777, 0.56984029].map((stride, axis) => (((k * stride) % 1) - 0.5) * size[axis]!);
      dots.setMatrixAt(k, at.makeTranslation(x! + field.place[0], y! + field.place[1], z! + field.place[2]));
    }
    dots.frustumCulled = false;
    dots.instanceMatrix.setUsage(DynamicDrawUsage);
    through.add(dots);
    moving.push(dots);
  }
  return { camera, opaque, through, glow, moving };
}

const half = (width: number, height: number) =>
  new WebGLRenderTarget(width, height, {
    type: HalfFloatType,
    minFilter: LinearFilter,
    magFilter: LinearFilter,
    depthBuffer: false,
  });

/** The same scene by the library alone: the same shadow, passes and sizes. */
export function setPlain(stage: Stage): void {
  const canvas = document.createElement('canvas');
  const renderer = new WebGLRenderer({ canvas, antialias: false, preserveDrawingBuffer: true });
  renderer.setSize(WIDTH, HEIGHT, false);
  renderer.shadowMap.enabled = true;
  renderer.shadowMap.type = PCFShadowMap;
  renderer.shadowMap.autoUpdate = false;
  renderer.shadowMap.needsUpdate = true;
  const { camera, opaque, through, glow, moving } = plainScene(stage);
  const picture = new WebGLRenderTarget(WIDTH, HEIGHT, {
    type: HalfFloatType,
    samples: 4,
    depthTexture: new DepthTexture(WIDTH, HEIGHT, FloatType),
  });
  const copy = half(WIDTH, HEIGHT);
  copy.texture.generateMipmaps = true;
  const depth = half(WIDTH, HEIGHT);
  const levels = bloomLevels(stage.optics.bloom.spread, HEIGHT);
  const sized = () => levels.map(({ lines }) => half(Math.round((lines * WIDTH) / HEIGHT), lines));
  const [down, up] = [sized(), sized()];
  const quad = new Scene();
  const lens = new OrthographicCamera();
  const triangle = new Mesh(new PlaneGeometry(2, 2));
  triangle.frustumCulled = false;
  quad.add(triangle);
  const shader = (fragmentShader: string) =>
    new RawShaderMaterial({
      glslVersion: GLSL3,
      vertexShader: SCREEN_VERTEX,
      fragmentShader,
      depthTest: false,
      depthWrite: false,
    });
  const copying = shader(
    'precision highp float; in vec2 vUv; out vec4 colour; uniform sampler2D picture; void main() { colour = texture(picture, vUv); }',
  );
  const [prefilter, downing, upping, display] = [PREFILTER, DOWN, UP, DISPLAY].map(shader) as [
    RawShaderMaterial,
    RawShaderMaterial,
    RawShaderMaterial,
    RawShaderMaterial,
  ];
  const run = (material: RawShaderMaterial, into: WebGLRenderTarget | null, values: Record<string, unknown>) => {
    for (const [name, value] of Object.entries(values)) material.uniforms[name] = { value };
    triangle.material = material;
    renderer.setRenderTarget(into);
    renderer.render(quad, lens);
  };
  const pixel = (t: WebGLRenderTarget) => [1 / t.width, 1 / t.height];
  plain = {
    draw: (time) => {
      glow.emissiveIntensity = 3 + Math.sin(time);
      // Whatever moves is told to the card anew, each of them.
      for (const { instanceMatrix } of moving) {
        for (let k = 13; k < instanceMatrix.array.length; k += 16) instanceMatrix.array[k]! += 0.001 * Math.sin(time + k);
        instanceMatrix.needsUpdate = true;
      }
      renderer.setRenderTarget(picture);
      renderer.autoClear = true;
      renderer.render(opaque, camera);
      run(copying, copy, { picture: picture.texture });
      run(copying, depth, { picture: picture.depthTexture });
      renderer.autoClear = false;
      renderer.setRenderTarget(picture);
      renderer.render(through, camera);
      renderer.autoClear = true;
      const { threshold, knee, intensity } = stage.optics.bloom;
      run(prefilter, down[0]!, { picture: picture.texture, pixel: pixel(down[0]!), exposure: 1, threshold, knee });
      for (let k = 1; k < down.length; k++) run(downing, down[k]!, { picture: down[k - 1]!.texture, pixel: pixel(down[k]!) });
      let sum: Texture = down.at(-1)!.texture;
      for (let k = down.length - 2; k >= 0; k--) {
        const values = { picture: down[k]!.texture, coarser: sum, pixel: pixel(down[k + 1]!), weight: 0.1, coarserWeight: 1 };
        run(upping, up[k]!, values);
        sum = up[k]!.texture;
      }
      run(display, null, { picture: picture.texture, bloom: sum, exposure: 1, bloomIntensity: intensity, tone: 1 });
      wait(canvas);
    },
  };
}

/** Milliseconds of each frame, the two drawn in turns so that neither has the quieter machine. */
export function race(frames: number): { ours: number[]; plain: number[] } {
  const times = { ours: [] as number[], plain: [] as number[] };
  for (let k = -3; k < frames; k++)
    for (const [name, scene] of [
      ['ours', ours!],
      ['plain', plain!],
    ] as const) {
      const began = performance.now();
      scene.draw(k / 30);
      if (k >= 0) times[name].push(performance.now() - began);
    }
  return times;
}
