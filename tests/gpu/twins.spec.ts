/**
 * The shaders that starters are measured against are of the same picture: both are drawn over one surface, and what they
 * leave in each target is compared. So is what each vertex becomes, where vertices move. After a day too.
 */
import { expect, test } from '@playwright/test';
import { TWINS, twinOf } from '../../bench/twins.js';
import type { Leaf } from '../../src/core/ir/leaves.js';

interface Job {
  readonly pairs: readonly { readonly fragment: string; readonly vertex: string | null }[];
  readonly block: readonly number[];
  readonly targets: number;
}

/** In the page: what each of the two writes, over one made-up surface before one made-up scene. */
function draw({ pairs, block, targets }: Job): { pixels: number[][][]; vertices: number[][] } {
  const SIZE = 96;
  const gl = document.createElement('canvas').getContext('webgl2')!;
  if (!gl.getExtension('EXT_color_buffer_float')) throw new Error('no float targets');
  const compile = (kind: number, text: string) => {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, text);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(`${gl.getShaderInfoLog(shader)}\n${text}`);
    return shader;
  };
  const link = (vertex: string, fragment: string, captured: string[]) => {
    const program = gl.createProgram();
    gl.attachShader(program, compile(gl.VERTEX_SHADER, vertex));
    gl.attachShader(program, compile(gl.FRAGMENT_SHADER, fragment));
    if (captured.length > 0) gl.transformFeedbackVaryings(program, captured, gl.INTERLEAVED_ATTRIBS);
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? 'no link');
    gl.useProgram(program);
    return program;
  };
  const texture = (
    unit: number,
    format: number,
    type: number,
    kind: number,
    data: ArrayBufferView,
    width: number,
    mips = false,
  ) => {
    gl.activeTexture(gl.TEXTURE0 + unit);
    gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
    gl.texImage2D(gl.TEXTURE_2D, 0, format, width, width, 0, kind, type, data);
    if (mips) gl.generateMipmap(gl.TEXTURE_2D);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, mips ? gl.LINEAR_MIPMAP_LINEAR : gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, mips ? gl.LINEAR : gl.NEAREST);
  };
  const behind = Float32Array.from({ length: SIZE * SIZE }, (_, k) => 1.1 + 0.3 * Math.sin(k * 0.11) + (k % SIZE) / SIZE / 4);
  texture(0, gl.R32F, gl.FLOAT, gl.RED, behind, SIZE);
  texture(1, gl.RGBA8, gl.UNSIGNED_BYTE, gl.RGBA, new Uint8Array(SIZE * SIZE * 4).fill(90), SIZE);
  const waves = Uint8Array.from({ length: 256 * 256 * 4 }, (_, k) => {
    const [x, y, lane] = [(k >> 2) & 255, k >> 10, k & 3];
    return lane === 2 ? 240 : 128 + 60 * Math.sin((x * (lane + 1) + y * (3 - lane)) / 20.4);
  });
  texture(2, gl.RGBA8, gl.UNSIGNED_BYTE, gl.RGBA, waves, 256, true);
  const buffer = gl.createBuffer();
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, buffer);
  gl.bufferData(gl.UNIFORM_BUFFER, new Float32Array(block), gl.STATIC_DRAW);

  const ROTATED = [0.8, 0, -0.6, 0, 0, 1.2, 0, 0, 0.6, 0, 0.8, 0, 0.3, -0.2, 0.5, 1];
  const AHEAD = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -0.2, -0.4, -2, 1];
  const LENS = [1.6, 0, 0, 0, 0, 1.6, 0, 0, 0, 0, -1.01, -1, 0, 0, -0.2, 0];
  const furnish = (program: WebGLProgram) => {
    const at = (name: string) => gl.getUniformLocation(program, name);
    gl.uniformMatrix4fv(at('modelMatrix'), false, ROTATED);
    gl.uniformMatrix4fv(at('viewMatrix'), false, AHEAD);
    gl.uniformMatrix4fv(at('projectionMatrix'), false, LENS);
    gl.uniform3f(at('cameraPosition'), 0.2, 0.4, 2);
    gl.uniform2f(at('pictureSize'), SIZE, SIZE);
    gl.uniform1i(at('opaqueDepth'), 0);
    gl.uniform1i(at('opaqueColour'), 1);
    const count = gl.getProgramParameter(program, gl.ACTIVE_UNIFORMS) as number;
    for (let k = 0; k < count; k++) {
      const { name } = gl.getActiveUniform(program, k)!;
      if (name.startsWith('image_')) gl.uniform1i(at(name), 2);
    }
    const index = gl.getUniformBlockIndex(program, 'Effect');
    if (index !== gl.INVALID_INDEX) gl.uniformBlockBinding(program, index, 0);
  };
  // A surface that is no plane: what varies over it turns and slants.
  const SURFACE: Record<string, string> = {
    seenPosition: 'vec3(p.x * 0.7 + 0.1, p.y * 0.75, 0.3 * p.x - 0.2 * p.y)',
    seenWorld: 'vec3(p.x * 1.4 + 0.3, 0.2 * p.y, 0.4 * p.x - 1.1 * p.y)',
    seenNormal: 'vec3(p.x * 0.8, p.y * 0.9, 1.0)',
    seenView: 'vec3(0.2 - p.x * 0.3, -0.1, 1.0)',
    seenUv: 'p * 0.5 + 0.5',
    seenColour: 'vec4(p * 0.5 + 0.5, 0.5 - p.x * 0.3, 1.0)',
    seenEdgeQuad: 'vec3(p.x + 0.99, 1.4 - p.x, p.y + 0.98) * 0.05',
  };
  const surfaceFor = (fragment: string) => {
    const varyings = [...fragment.matchAll(/^(?:centroid )?in (vec\d) (seen\w+);/gm)];
    const outs = varyings.map(([, type, name]) => `${name === 'seenColour' ? 'centroid ' : ''}out ${type} ${name};`).join('\n');
    const fills = varyings.map(([, , name]) => `${name!} = ${SURFACE[name!]!};`).join('\n');
    return `#version 300 es\n${outs}\nvoid main() {\nvec2 p = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);\n${fills}\ngl_Position = vec4(p, 0.0, 1.0);\n}`;
  };

  const frame = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
  const attachments = Array.from({ length: targets }, (_, k) => {
    const held = gl.createRenderbuffer();
    gl.bindRenderbuffer(gl.RENDERBUFFER, held);
    gl.renderbufferStorage(gl.RENDERBUFFER, gl.RGBA32F, SIZE, SIZE);
    gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + k, gl.RENDERBUFFER, held);
    return gl.COLOR_ATTACHMENT0 + k;
  });
  gl.drawBuffers(attachments);
  gl.viewport(0, 0, SIZE, SIZE);
  const pixels = pairs.map(({ fragment }) => {
    gl.bindVertexArray(gl.createVertexArray());
    furnish(link(surfaceFor(fragment), fragment, []));
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    return attachments.map((attachment) => {
      const out = new Float32Array(SIZE * SIZE * 4);
      gl.readBuffer(attachment);
      gl.readPixels(0, 0, SIZE, SIZE, gl.RGBA, gl.FLOAT, out);
      return [...out];
    });
  });

  const POINTS = 400;
  const STREAMS: Record<string, (k: number) => number[]> = {
    position: (k) => [Math.sin(k) * 40, Math.cos(k * 0.7), Math.sin(k * 1.3) * 30],
    normal: (k) => [Math.sin(k) * 0.4, Math.sqrt(1 - 0.16 * Math.sin(k) ** 2), 0],
    uv: (k) => [k / POINTS, 0.5],
    vertexColour: (k) => [k / POINTS, 0.3, 0.6, 1],
    vertexColourDt: (k) => [0.4 * Math.sin(k), 0, 0, 0],
    vertexColourDb: (k) => [0.7 * Math.cos(k), 0, 0, 0],
  };
  const vertices = pairs.map(({ vertex, fragment }) => {
    if (vertex === null) return [];
    const captured = ['gl_Position', ...(/out vec3 seenNormal;/.test(vertex) ? ['seenNormal'] : [])];
    const program = link(vertex, fragment, captured);
    furnish(program);
    gl.bindVertexArray(gl.createVertexArray());
    for (const [name, stream] of Object.entries(STREAMS)) {
      const at = gl.getAttribLocation(program, name);
      if (at < 0) continue;
      const values = Array.from({ length: POINTS }, (_, k) => stream(k));
      gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
      gl.bufferData(gl.ARRAY_BUFFER, new Float32Array(values.flat()), gl.STATIC_DRAW);
      gl.enableVertexAttribArray(at);
      gl.vertexAttribPointer(at, values[0]!.length, gl.FLOAT, false, 0, 0);
    }
    const floats = POINTS * (captured.length === 2 ? 7 : 4);
    const out = gl.createBuffer();
    gl.bindBuffer(gl.TRANSFORM_FEEDBACK_BUFFER, out);
    gl.bufferData(gl.TRANSFORM_FEEDBACK_BUFFER, floats * 4, gl.STREAM_READ);
    gl.bindBufferBase(gl.TRANSFORM_FEEDBACK_BUFFER, 0, out);
    gl.enable(gl.RASTERIZER_DISCARD);
    gl.beginTransformFeedback(gl.POINTS);
    gl.drawArrays(gl.POINTS, 0, POINTS);
    gl.endTransformFeedback();
    gl.disable(gl.RASTERIZER_DISCARD);
    const values = new Float32Array(floats);
    gl.getBufferSubData(gl.TRANSFORM_FEEDBACK_BUFFER, 0, values);
    gl.bindBufferBase(gl.TRANSFORM_FEEDBACK_BUFFER, 0, null);
    return [...values];
  });
  if (gl.getError() !== gl.NO_ERROR) throw new Error('WebGL complains');
  return { pixels, vertices };
}

/** How large a share of the numbers is apart by more than a thousandth, and how far they spread. */
function compared(was: readonly number[], is: readonly number[]): { apart: number; spread: number } {
  const apart = was.filter((v, k) => !(Math.abs(v - is[k]!) <= 1e-3 * Math.max(1, Math.abs(v)))).length / was.length;
  return { apart, spread: Math.max(...was) - Math.min(...was) };
}

/** One moved, one of many targets, one that reads images. */
const SOME = ['kelp-current', 'tank-water', 'vent-embers'];

for (const name of TWINS.filter((each) => process.env.WISPEN_DEEP !== undefined || SOME.includes(each)))
  test(`${name} and its twin leave the same in every target`, async ({ page }) => {
    const { generated, written, slots, effect } = twinOf(name);
    const lit = effect.finish.lighting === 'lit';
    const moving = written.vertex === null ? null : generated.vertex;
    const values: Partial<Record<Leaf, number>> = { timeRest: 0, propRandom: 0.37 };
    // Hand-written, the block is time, what it has not, and the prop's own number, in this order.
    expect(slots.map((slot) => [slot.node.leaf, slot.at])).toEqual(
      (['time', 'timeRest', 'propRandom'] as const).flatMap((leaf) => {
        const at = slots.findIndex((slot) => slot.node.leaf === leaf);
        return at < 0 ? [] : [[leaf, at]];
      }),
    );
    for (const time of effect.loop === null ? [1.37, 86_400.25] : [1.37, 4.6]) {
      const block = Array.from({ length: 4 }, (_, k) => {
        const leaf = slots.find((slot) => slot.at === k)?.node.leaf;
        return leaf === 'time' ? time : leaf ? values[leaf]! : 0;
      });
      const { pixels, vertices } = await page.evaluate(draw, {
        pairs: [
          { fragment: generated.fragment, vertex: moving },
          { fragment: written.fragment, vertex: written.vertex },
        ],
        ...{ block, targets: lit ? 4 : 1 },
      });
      const found = pixels[0]!.map((target, k) => compared(target, pixels[1]![k]!));
      // Something is drawn, and edges may fall on either side of a rounding.
      expect(found.some(({ spread }) => spread > 0.05)).toBe(true);
      expect({ time, apart: found.map(({ apart }) => apart).filter((share) => share > 0.005) }).toEqual({ time, apart: [] });
      // A bent normal is steep where what moves it hardly leaves an area: a few points follow their rounding.
      if (moving !== null) expect(compared(vertices[0]!, vertices[1]!).apart).toBeLessThan(0.015);
    }
  });
