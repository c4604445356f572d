/** What every lit surface of a stage has in its shader besides three's own: the spill of what glows, soft shadows, haze. */
import type { WebGLProgramParametersWithUniforms } from 'three';
import { HAZE_GLSL, Haze } from './haze.js';
import { SHADOW_CHUNK, SoftShadows, softShadowChunk } from './softShadows.js';
import { EmitterTable, SPILL_GLSL, SPILL_LIT_GLSL } from './spillShader.js';

export class Shading {
  readonly haze = new Haze();
  readonly emitters = new EmitterTable();
  readonly shadows = new SoftShadows();

  get uniforms(): Readonly<Record<string, { value: unknown }>> {
    return { ...this.haze.uniforms, ...this.emitters.uniforms, ...this.shadows.uniforms };
  }

  dispose(): void {
    this.haze.dispose();
    this.emitters.dispose();
    this.shadows.dispose();
  }
}

/** Changes one of three's shaders where it includes a chunk. @throws when it does not */
export function replaceChunk(
  shader: WebGLProgramParametersWithUniforms,
  stage: 'vertexShader' | 'fragmentShader',
  chunk: string,
  make: (chunk: string) => string,
): void {
  const include = `#include <${chunk}>`;
  if (!shader[stage].includes(include)) throw new Error(`three's shader has no ${include}`);
  shader[stage] = shader[stage].replace(include, make(include));
}

interface Spilling {
  /** The expression of where the surface's own prop stands, which does not light it. */
  readonly own?: string;
  /** It mirrors enough for a gleam to be seen. */
  readonly gleams: boolean;
}

/** Spill after three's own lights, and their shadows soft. */
export function withLight(shader: WebGLProgramParametersWithUniforms, { own, gleams }: Spilling): void {
  const define = `${own ? `#define OWN_PLACE ${own}\n` : ''}${gleams ? '#define SPILL_GLEAMS\n' : ''}`;
  replaceChunk(shader, 'fragmentShader', 'common', (c) => `${c}\n${define}${HAZE_GLSL}\n${SPILL_GLSL}`);
  replaceChunk(shader, 'fragmentShader', 'lights_fragment_end', (c) => `${SPILL_LIT_GLSL}\n${c}`);
  replaceChunk(shader, 'fragmentShader', SHADOW_CHUNK, softShadowChunk);
}

/** Puts all of it into the shader of a surface that wears no effect. */
export function inStage(shader: WebGLProgramParametersWithUniforms, shading: Shading, gleams: boolean): void {
  Object.assign(shader.uniforms, shading.uniforms);
  withLight(shader, { gleams });
  replaceChunk(shader, 'vertexShader', 'common', (c) => `${c}\nout vec3 seenWorld;`);
  replaceChunk(shader, 'vertexShader', 'begin_vertex', (c) => `${c}\nseenWorld = (modelMatrix * vec4(transformed, 1.0)).xyz;`);
  replaceChunk(shader, 'fragmentShader', 'common', (c) => `${c}\nin vec3 seenWorld;`);
  replaceChunk(
    shader,
    'fragmentShader',
    'opaque_fragment',
    (c) => `outgoingLight = inHaze(outgoingLight, cameraPosition, seenWorld);\n${c}`,
  );
}
