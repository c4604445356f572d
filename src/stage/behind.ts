/**
 * What lies behind see-through surfaces: the opaque scene's colours, sharp and ever softer, and its depth along the view
 * axis. Made from the opaque picture once it is drawn, so that whatever moved or cut holes into it counts.
 */
import {
  BufferAttribute,
  BufferGeometry,
  FloatType,
  GLSL3,
  HalfFloatType,
  LinearFilter,
  LinearMipmapLinearFilter,
  Mesh,
  NearestFilter,
  OrthographicCamera,
  RawShaderMaterial,
  RedFormat,
  Scene,
  WebGLRenderTarget,
  type PerspectiveCamera,
  type WebGLRenderer,
} from 'three';
import { SCENE_BEHIND } from './effectMaterial.js';
import { BEHIND_COLOUR, BEHIND_DEPTH, SCREEN_VERTEX } from './shaders.js';

const pass = (fragmentShader: string, uniforms: RawShaderMaterial['uniforms']) =>
  new RawShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: SCREEN_VERTEX,
    fragmentShader,
    uniforms,
    depthTest: false,
    depthWrite: false,
  });

export class BehindPass {
  private readonly scene = new Scene();
  private readonly camera = new OrthographicCamera();
  private readonly triangle: Mesh;
  private readonly colour = new WebGLRenderTarget(1, 1, {
    type: HalfFloatType,
    generateMipmaps: true,
    minFilter: LinearMipmapLinearFilter,
    magFilter: LinearFilter,
    depthBuffer: false,
  });
  private readonly depth = new WebGLRenderTarget(1, 1, {
    type: FloatType,
    format: RedFormat,
    minFilter: NearestFilter,
    magFilter: NearestFilter,
    depthBuffer: false,
  });
  private readonly copying = pass(BEHIND_COLOUR, { picture: { value: null } });
  private readonly measuring = pass(BEHIND_DEPTH, { depth: { value: null }, near: { value: 0.1 }, far: { value: 100 } });

  constructor(private readonly renderer: WebGLRenderer) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3));
    this.triangle = new Mesh(geometry, this.copying);
    this.triangle.frustumCulled = false;
    this.scene.add(this.triangle);
  }

  private run(material: RawShaderMaterial, into: WebGLRenderTarget): void {
    this.triangle.material = material;
    this.renderer.setRenderTarget(into);
    this.renderer.render(this.scene, this.camera);
  }

  /** @param picture the opaque scene, with a depth texture; both resolved */
  take(picture: WebGLRenderTarget, camera: PerspectiveCamera): void {
    const { width, height } = picture;
    for (const target of [this.colour, this.depth])
      if (target.width !== width || target.height !== height) target.setSize(width, height);
    this.copying.uniforms.picture!.value = picture.texture;
    this.run(this.copying, this.colour);
    this.measuring.uniforms.depth!.value = picture.depthTexture;
    this.measuring.uniforms.near!.value = camera.near;
    this.measuring.uniforms.far!.value = camera.far;
    this.run(this.measuring, this.depth);
    SCENE_BEHIND.opaqueColour.value = this.colour.texture;
    SCENE_BEHIND.opaqueDepth.value = this.depth.texture;
    SCENE_BEHIND.pictureSize.value.set(width, height);
  }

  /** The depth of a small picture's opaque scene, in metres along the view axis; rows from the bottom. */
  metres(picture: WebGLRenderTarget, camera: PerspectiveCamera): Float32Array {
    const { width, height } = picture;
    const into = new WebGLRenderTarget(width, height, {
      type: FloatType,
      minFilter: NearestFilter,
      magFilter: NearestFilter,
      depthBuffer: false,
    });
    this.measuring.uniforms.depth!.value = picture.depthTexture;
    this.measuring.uniforms.near!.value = camera.near;
    this.measuring.uniforms.far!.value = camera.far;
    this.run(this.measuring, into);
    const pixels = new Float32Array(width * height * 4);
    this.renderer.readRenderTargetPixels(into, 0, 0, width, height, pixels);
    into.dispose();
    return Float32Array.from({ length: width * height }, (_, k) => pixels[k * 4]!);
  }

  dispose(): void {
    for (const part of [this.colour, this.depth, this.copying, this.measuring, this.triangle.geometry]) part.dispose();
  }
}
