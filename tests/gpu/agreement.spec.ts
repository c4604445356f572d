/**
 * The same values on the graphics card and on the CPU, point by point: every operator with every one of its options, and
 * every kernel, made from the tables. Inputs come from a float texture, never from varyings.
 */
import { expect, test, type Page } from '@playwright/test';
import { reach } from '../../src/core/base/reach.js';
import { samplePlaces } from '../../src/core/places/spread.js';
import { strandsOf, type Effect, type Strand } from '../../src/core/effect/schema.js';
import type { OutputName } from '../../src/core/effect/outputs.js';
import { Builder } from '../../src/core/ir/builder.js';
import { LEAVES, type Leaf } from '../../src/core/ir/leaves.js';
import { baseOf, widthOf, type Node } from '../../src/core/ir/types.js';
import { lower, type Port, type Program } from '../../src/core/lower/lower.js';
import { paramValues } from '../../src/core/lower/params.js';
import { OPERATORS } from '../../src/core/operators/catalogue.js';
import { fillBlock } from '../../src/core/targets/block.js';
import { evaluatorOf } from '../../src/core/targets/evaluate.js';
import { emitGlsl } from '../../src/core/targets/glsl.js';
import type { LeafValues } from '../../src/core/targets/wasm/runner.js';
import { sheetsOf } from '../fixtures/fills.js';
import { kernels } from '../fixtures/kernels.js';
import { PICTURES, constructSheet, randomFrom } from '../fixtures/sheets.js';

const WIDTH = 2048;
const ROWS = 5;
const POINTS = WIDTH * ROWS;
/** Seconds: after long, a card's last bit of a rate would be told in whole phases. */
const TIME = 1.37;
const places = samplePlaces(POINTS);
const PLACED = Object.keys(places) as Leaf[];
/** What is one value for the prop. */
const FRAME = { propRandom: [0.3] };

/** The places, shaken in their last two bits: as far as two machines may differ about what they are given. */
function shaken(seed: number): Partial<Record<Leaf, Float32Array[]>> {
  const random = randomFrom(seed);
  const shake = (lane: Float32Array) =>
    lane.map((v) => Math.fround(v + (random() < 0.5 ? -1 : 1) * 2 ** -22 * Math.max(0.5, Math.abs(v))));
  return Object.fromEntries(PLACED.map((leaf) => [leaf, places[leaf]!.map(shake)]));
}
/** So many that what a long chain of strands makes of the last bits is seen at nearly every place. */
const SHAKEN = [1, 2, 3, 4, 5, 6].map(shaken);

interface GpuImage {
  readonly name: string;
  readonly levels: readonly { readonly width: number; readonly height: number; readonly texels: number[] }[];
  readonly wrap: string;
  readonly filter: string;
}
interface GpuJob {
  readonly fragment: string;
  readonly block: number[];
  readonly picks: number;
  readonly images: readonly GpuImage[];
}

interface Case {
  readonly name: string;
  readonly node: Node;
}

/** One program that gives every one of these values. */
function jobFor(program: Program, cases: readonly Case[], params: Float32Array, loop: number | null): GpuJob {
  // Every case becomes an output, so that one program gives them all.
  const outputs = new Map(cases.map(({ node }, k) => [`v${k}` as OutputName, { node, kind: '1' } as Port]));
  const text = emitGlsl({ ...program, outputs }, { hoist: true, naming: 'ids', changes: 'given' });
  const args = text.fragment.leaves.map(
    (leaf) =>
      `texelFetch(places, ivec2(at.x, at.y + ${PLACED.indexOf(leaf) * ROWS}), 0).${'xyzw'.slice(0, widthOf(LEAVES[leaf].type))}`,
  );
  const wide = (k: number) => {
    const w = widthOf(cases[k]!.node.type);
    return w === 4 ? `s.v${k}` : `vec4(s.v${k}${', 0.0'.repeat(4 - w)})`;
  };
  const fragment = `#version 300 es
precision highp float;
precision highp int;
uniform highp sampler2D places;
uniform int picked;
out vec4 colour;
${text.block}
${text.fragment.library}
${text.fragment.code}
void main() {
  ivec2 at = ivec2(gl_FragCoord.xy);
  Surface s = surface(${args.join(', ')});
  colour = vec4(0.0);
${cases.map((_, k) => `  if (picked == ${k}) colour = ${wide(k)};`).join('\n')}
}`;
  const images = [...text.fragment.images].map(([name, { asset, wrap, filter }]) => ({
    ...{ name, wrap, filter },
    levels: PICTURES.get(asset)!.levels.map((l) => ({ ...l, texels: [...l.texels] })),
  }));
  const block = [...fillBlock(text, params, TIME, loop, FRAME, PICTURES)];
  return { fragment, block, picks: cases.length, images };
}

/** In the page: the places as a texture, for every job. */
function prepare({ width, rows, data }: { width: number; rows: number; data: string }): void {
  const gl = document.createElement('canvas').getContext('webgl2')!;
  gl.getExtension('EXT_color_buffer_float');
  gl.getExtension('OES_texture_float_linear');
  const floats = new Float32Array(Uint8Array.from(atob(data), (c) => c.charCodeAt(0)).buffer);
  const texture = (height: number, numbers: Float32Array | null) => {
    const made = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, made);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, width, height, 0, gl.RGBA, gl.FLOAT, numbers);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    return made;
  };
  const target = texture(rows, null);
  gl.bindFramebuffer(gl.FRAMEBUFFER, gl.createFramebuffer());
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
  const placed = texture(floats.length / 4 / width, floats);
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer());
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
  gl.viewport(0, 0, width, rows);
  Object.assign(globalThis, { gpu: { gl, placed, width, rows } });
}

/** In the page: draws every pick and reads the floats back, as text. */
function run(job: GpuJob): string[] {
  const { gl, placed, width, rows } = (
    globalThis as unknown as { gpu: { gl: WebGL2RenderingContext; placed: WebGLTexture; width: number; rows: number } }
  ).gpu;
  const compile = (kind: number, source: string) => {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? 'no reason given');
    return shader;
  };
  const program = gl.createProgram()!;
  const vertex = '#version 300 es\nlayout(location = 0) in vec2 p;\nvoid main() { gl_Position = vec4(p, 0.0, 1.0); }';
  gl.attachShader(program, compile(gl.VERTEX_SHADER, vertex));
  gl.attachShader(program, compile(gl.FRAGMENT_SHADER, job.fragment));
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? 'no reason given');
  gl.useProgram(program);
  const block = gl.createBuffer();
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, block);
  gl.bufferData(gl.UNIFORM_BUFFER, new Float32Array(job.block), gl.STATIC_DRAW);
  gl.activeTexture(gl.TEXTURE0);
  gl.bindTexture(gl.TEXTURE_2D, placed);
  gl.uniform1i(gl.getUniformLocation(program, 'places'), 0);
  const wraps: Record<string, number> = { repeat: gl.REPEAT, mirror: gl.MIRRORED_REPEAT, clamp: gl.CLAMP_TO_EDGE };
  job.images.forEach(({ name, levels, wrap, filter }, k) => {
    gl.activeTexture(gl.TEXTURE1 + k);
    gl.bindTexture(gl.TEXTURE_2D, gl.createTexture());
    levels.forEach((l, level) =>
      gl.texImage2D(gl.TEXTURE_2D, level, gl.RGBA32F, l.width, l.height, 0, gl.RGBA, gl.FLOAT, new Float32Array(l.texels)),
    );
    for (const axis of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(gl.TEXTURE_2D, axis, wraps[wrap]!);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, filter === 'nearest' ? gl.NEAREST : gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, filter === 'nearest' ? gl.NEAREST : gl.LINEAR_MIPMAP_LINEAR);
    gl.uniform1i(gl.getUniformLocation(program, name), 1 + k);
  });
  const results: string[] = [];
  for (let k = 0; k < job.picks; k++) {
    gl.uniform1i(gl.getUniformLocation(program, 'picked'), k);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const out = new Float32Array(width * rows * 4);
    gl.readPixels(0, 0, width, rows, gl.RGBA, gl.FLOAT, out);
    const bytes = new Uint8Array(out.buffer);
    let text = '';
    for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
    results.push(btoa(text));
  }
  gl.deleteProgram(program);
  return results;
}

const decoded = (text: string): Float32Array => {
  const bytes = Buffer.from(text, 'base64');
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
};

test.beforeEach(async ({ page }) => {
  const data = new Float32Array(PLACED.length * POINTS * 4);
  PLACED.forEach((leaf, row) =>
    places[leaf]!.forEach((lane, l) => lane.forEach((v, k) => (data[(row * POINTS + k) * 4 + l] = v))),
  );
  await page.goto('about:blank');
  await page.evaluate(prepare, { width: WIDTH, rows: ROWS, data: Buffer.from(data.buffer).toString('base64') });
});

/** All nodes that some are made of, those inside of kernels too. */
function everyNode(roots: readonly Node[]): Node[] {
  return reach(roots, (node) => [...node.args, ...(node.loop?.next ?? []), ...(node.kernel ? [node.kernel.body()] : [])]);
}

const STEPS = new Set([
  'floor',
  'ceil',
  'round',
  'sign',
  'lt',
  'le',
  'eq',
  'select',
  'fract',
  'ftoi',
  'smoothstep',
  'min',
  'max',
]);
/** Read off the program: whether it jumps anywhere, and whether a graphics card's own filter takes part. */
function natureOf(node: Node): { jumps: boolean; filters: boolean } {
  const all = everyNode([node]);
  return {
    jumps: all.some((n) => STEPS.has(n.op) || n.kernel?.continuous === false),
    filters: all.some((n) => n.image?.filter === 'smooth'),
  };
}

/**
 * Compares every case. Two values agree within 1e-5, relative above 1, or within four times what the last bits of the
 * places move them; a card's filter has weights of 8 bits (OpenGL ES 3.0.6, 3.8.10). Beyond that a value that jumps may
 * lie on the other side of an edge: one point in ten thousand.
 */
async function disagreements(
  page: Page,
  program: Program,
  cases: readonly Case[],
  params: Float32Array,
  loop: number | null,
): Promise<string[]> {
  const gpu = (await page.evaluate(run, jobFor(program, cases, params, loop))).map(decoded);
  const roots = cases.map((c) => c.node);
  const evaluator = evaluatorOf(program, roots, new Set(PLACED), POINTS, PICTURES);
  const at = (planes: LeafValues) => evaluator.evaluate(params, { ...planes, ...FRAME, time: [TIME], loop: [loop ?? 0] }, POINTS);
  const cpu = at(places);
  const moved = SHAKEN.map(at);
  return cases.flatMap(({ name, node }, c) => {
    const { jumps, filters } = natureOf(node);
    let off = 0;
    let worst = '';
    for (let k = 0; k < POINTS; k++) {
      const differs = cpu[c]!.some((plane, lane) => {
        const v = plane[k]!;
        if (!Number.isFinite(v)) return false;
        const spread = Math.max(...moved.map((m) => Math.abs(m[c]![lane]![k]! - v)));
        const allowed = (filters ? 1 / 128 : 1e-5) * Math.max(1, Math.abs(v)) + (Number.isFinite(spread) ? 4 * spread : Infinity);
        const far = Math.abs(gpu[c]![k * 4 + lane]! - v);
        if (!(far <= allowed)) worst = `${gpu[c]![k * 4 + lane]!} for ${v}`;
        return !(far <= allowed);
      });
      if (differs) off++;
    }
    return off <= (jumps ? POINTS / 10_000 : 0) ? [] : [`${name}: ${off} of ${POINTS} differ, ${worst}`];
  });
}

/** One sheet of many: each is lowered by itself, and their strands under test are told apart by their place. */
function merged(sheets: readonly { name: string; effect: Effect }[]): { effect: Effect; names: string[] } {
  const [first] = sheets;
  const strands: Strand[] = [];
  const names: string[] = [];
  sheets.forEach(({ name, effect }, k) => {
    const own = (id: string) => `${id}x${k}`;
    for (const s of strandsOf(effect)) {
      const inputs = Object.fromEntries(
        Object.entries(s.inputs ?? {}).map(([n, input]) => [
          n,
          input && 'from' in input ? { ...input, from: own(input.from) } : input,
        ]),
      );
      strands.push({ ...s, id: own(s.id), name: own(s.id), inputs });
    }
    names.push(name);
  });
  return { effect: { ...first!.effect, strands: strands as Effect['strands'] }, names };
}

test('every operator with every option agrees within 1e-5', async ({ page }) => {
  const failures: string[] = [];
  for (const op of OPERATORS) {
    const { effect, names } = merged(sheetsOf(op));
    const program = lower(effect, { build: 'live' });
    expect([op.id, program.problems]).toEqual([op.id, []]);
    const cases = names.flatMap((name, k) =>
      Object.entries(program.strands.get(`testedx${k}`)!.ports).map(([port, { node }]) => ({ name: `${name} ${port}`, node })),
    );
    expect(cases.length).toBeGreaterThan(0);
    failures.push(...(await disagreements(page, program, cases, paramValues(program.params, effect), effect.loop)));
  }
  expect(failures).toEqual([]);
});

test('every kernel agrees within 1e-5, called by itself', async ({ page }) => {
  const all = kernels();
  expect(all.length).toBeGreaterThan(30);
  const failures: string[] = [];
  for (let from = 0; from < all.length; from += 8) {
    const b = new Builder();
    // Numbers from 0.05 to 2.05 that differ from argument to argument.
    const sources = [...b.split(b.leaf('vertexColour')), ...b.split(b.leaf('uv')), ...b.split(b.leaf('uv1'))];
    const number = (k: number) => b.add(b.mul(sources[k % sources.length]!, 2), 0.05);
    const cases = all.slice(from, from + 8).map((kernel): Case => {
      let lane = 0;
      const args = kernel.params.map(({ type }) => {
        const parts = Array.from({ length: widthOf(type) }, () => number(lane++));
        const whole = parts.map((p) => (baseOf(type) === 'i' ? b.op('ftoi', b.mul(p, 1000)) : p));
        return b.join(...whole);
      });
      const result = b.call(kernel, ...args);
      const floats = baseOf(kernel.result) === 'i' ? b.op('itof', b.op('ushr', result, b.integer(8))) : result;
      return { name: kernel.name, node: floats };
    });
    const program: Program = {
      ...{ builder: b, strands: new Map(), outputs: new Map(), params: [], paramCount: 0, paramBounds: [] },
      ...{ problems: [], signature: '', plainer: (nodes) => nodes },
    };
    failures.push(...(await disagreements(page, program, cases, new Float32Array(), 4)));
  }
  expect(failures).toEqual([]);
});

const SHEETS = process.env.WISPEN_DEEP === undefined ? 2 : 40;
test(`${SHEETS} constructed sheets agree, strand by strand`, async ({ page }) => {
  // Programs of many kernels each: a graphics driver without a card takes its time to make them.
  test.setTimeout(60_000 + SHEETS * 60_000);
  const failures: string[] = [];
  for (let seed = 0; seed < SHEETS; seed++) {
    const effect = constructSheet(100 + seed * 7, { strands: 16, noises: 2 });
    const program = lower(effect, { build: 'live' });
    const cases = [...program.strands.values()].map((s, k) => ({
      name: `sheet ${seed}, ${s.id}, ${strandsOf(effect)[k]!.op}`,
      node: s.value.node,
    }));
    failures.push(...(await disagreements(page, program, cases, paramValues(program.params, effect), effect.loop)));
  }
  expect(failures).toEqual([]);
});
