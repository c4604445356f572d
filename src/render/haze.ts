/**
 * The haze of a stage in the shaders: what is far takes on its colour. Its numbers are shared by all that is drawn, so
 * that it is turned without a new program.
 */
import { BackSide, GLSL3, Mesh, RawShaderMaterial, SphereGeometry, Vector3, Vector4 } from 'three';
import type { Stage } from '../core/scene/stage.js';

/** The twin of `core/optics/haze.ts`. `hazeAmount` is density, 1 / height of falling, where it is counted from, on. */
export const HAZE_GLSL = `uniform vec3 hazeColour;
uniform vec4 hazeAmount;
float throughHaze(vec3 eye, vec3 point) {
  float rise = (point.y - eye.y) * hazeAmount.y;
  float there = exp(clamp((hazeAmount.z - eye.y) * hazeAmount.y, -60.0, 60.0));
  float falls = abs(rise) < 1e-3 ? 1.0 - 0.5 * rise : (1.0 - exp(-clamp(rise, -60.0, 60.0))) / rise;
  return exp(-min(hazeAmount.x * distance(eye, point) * there * falls, 60.0));
}
vec3 inHaze(vec3 light, vec3 eye, vec3 point) {
  if (hazeAmount.w < 0.5) return light;
  return mix(hazeColour, light, throughHaze(eye, point));
}
vec3 dimmedByHaze(vec3 light, vec3 eye, vec3 point) {
  return hazeAmount.w < 0.5 ? light : light * throughHaze(eye, point);
}`;

const SKY_VERTEX = `precision highp float;
uniform mat4 projectionMatrix;
uniform mat4 viewMatrix;
in vec3 position;
out vec3 way;
void main() {
  way = position;
  gl_Position = (projectionMatrix * vec4(mat3(viewMatrix) * position, 1.0)).xyww;
}`;
/** As far as the haze of the sky is followed, in metres: about as far as the sea of a stage goes. */
const SKY = 750;

export class Haze {
  readonly uniforms = {
    hazeColour: { value: new Vector3() },
    hazeAmount: { value: new Vector4(0, 0, 0, 0) },
  };
  private readonly above = { value: new Vector3() };
  /** What is seen where nothing stands: the colour behind, through the haze. */
  readonly sky = new Mesh(
    new SphereGeometry(1, 32, 24),
    new RawShaderMaterial({
      glslVersion: GLSL3,
      side: BackSide,
      depthWrite: false,
      uniforms: { ...this.uniforms, above: this.above },
      vertexShader: SKY_VERTEX,
      fragmentShader: `precision highp float;
in vec3 way;
out vec4 colour;
uniform vec3 cameraPosition;
uniform vec3 above;
${HAZE_GLSL}
void main() {
  vec3 far = cameraPosition + normalize(way) * ${SKY.toFixed(1)};
  colour = vec4(inHaze(above, cameraPosition, far), 1.0);
}`,
    }),
  );

  constructor() {
    this.sky.frustumCulled = false;
    this.sky.renderOrder = -1;
    this.sky.visible = false;
  }

  /** @param above radiance of what is behind all, where nothing is seen of the surroundings; null where they are */
  apply(haze: Stage['haze'], above: readonly [number, number, number] | null): void {
    const on = haze !== undefined && haze.density > 0;
    this.sky.visible = on && above !== null;
    if (!on) return void this.uniforms.hazeAmount.value.set(0, 0, 0, 0);
    this.uniforms.hazeColour.value.set(...haze.rgb);
    this.uniforms.hazeAmount.value.set(haze.density, haze.falls === null ? 0 : 1 / haze.falls, haze.from, 1);
    if (above) this.above.value.set(...above);
  }

  dispose(): void {
    this.sky.geometry.dispose();
    this.sky.material.dispose();
  }
}
