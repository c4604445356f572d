/** Passes over the whole picture: one triangle that covers it. */
import {
  BufferAttribute,
  BufferGeometry,
  GLSL3,
  Mesh,
  OrthographicCamera,
  RawShaderMaterial,
  Scene,
  type IUniform,
  type WebGLRenderTarget,
  type WebGLRenderer,
} from 'three';
import { SCREEN_VERTEX } from './shaders.js';

export const pass = (fragmentShader: string, uniforms: Record<string, IUniform>) =>
  new RawShaderMaterial({
    glslVersion: GLSL3,
    vertexShader: SCREEN_VERTEX,
    fragmentShader,
    uniforms,
    depthTest: false,
    depthWrite: false,
  });

export class Screen {
  private readonly camera = new OrthographicCamera();
  private readonly scene = new Scene();
  private readonly triangle: Mesh;

  constructor(private readonly renderer: WebGLRenderer) {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3));
    this.triangle = new Mesh(geometry);
    this.triangle.frustumCulled = false;
    this.scene.add(this.triangle);
  }

  /** @param into null for the canvas; @param values of the material's uniforms, by name */
  run(material: RawShaderMaterial, into: WebGLRenderTarget | null, values: Readonly<Record<string, unknown>>): void {
    for (const [name, value] of Object.entries(values)) material.uniforms[name]!.value = value;
    this.triangle.material = material;
    this.renderer.setRenderTarget(into);
    this.renderer.render(this.scene, this.camera);
  }

  dispose(): void {
    this.triangle.geometry.dispose();
  }
}
