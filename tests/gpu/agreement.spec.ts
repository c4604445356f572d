/** The same strands on the graphics card and on the CPU, point by point. Inputs come from a float texture, never from varyings. */
import { expect, test } from '@playwright/test';
import { samplePlaces } from '../../src/core/analysis/places.js';
import { strandsOf, type Effect, type OutputName, type Strand } from '../../src/core/effect/schema.js';
import { LEAVES, type Leaf } from '../../src/core/ir/leaves.js';
import { widthOf } from '../../src/core/ir/types.js';
import { lower, type Port } from '../../src/core/lower/lower.js';
import { paramValues } from '../../src/core/lower/params.js';
import { OPERATORS } from '../../src/core/operators/catalogue.js';
import { evaluatorOf } from '../../src/core/targets/evaluate.js';
import { fillBlock } from '../../src/core/targets/block.js';
import { emitGlsl } from '../../src/core/targets/glsl.js';
import { constructSheet, effectOf } from '../fixtures/sheets.js';

const POINTS = 4096;
const TIME = 1.37;
const places = samplePlaces(POINTS);
/** What is one value for the prop. */
const FRAME = { propRandom: [0.3] };
const PLACED = Object.keys(places) as Leaf[];

interface GpuJob {
  readonly fragment: string;
  readonly block: number[];
  /** RGBA rows of POINTS, one a leaf. */
  readonly texture: number[][];
  readonly picks: number;
}

function jobFor(effect: Effect): { job: GpuJob; cpu: Float32Array[][]; ids: string[] } {
  const program = lower(effect, { build: 'live' });
  expect(program.problems).toEqual([]);
  const strands = [...program.strands.values()];
  // Every strand becomes an output, so that one program gives them all.
  const outputs = new Map(strands.map((s, k) => [`v${k}` as OutputName, s.value] as [OutputName, Port]));
  const text = emitGlsl({ ...program, outputs }, { hoist: true, naming: 'ids', changes: 'given' });
  const params = paramValues(program.params, effect);
  const row = (leaf: Leaf) => PLACED.indexOf(leaf);
  const args = text.fragment.leaves.map(
    (leaf) => `texelFetch(places, ivec2(at, ${row(leaf)}), 0).${'xyzw'.slice(0, widthOf(LEAVES[leaf].type))}`,
  );
  const wide = (k: number) => {
    const w = widthOf(strands[k]!.value.node.type);
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
  int at = int(gl_FragCoord.x);
  Surface s = surface(${args.join(', ')});
  colour = vec4(0.0);
${strands.map((_, k) => `  if (picked == ${k}) colour = ${wide(k)};`).join('\n')}
}`;
  const texture = PLACED.map((leaf) => {
    const out: number[] = [];
    for (let k = 0; k < POINTS; k++) for (let lane = 0; lane < 4; lane++) out.push(places[leaf]![lane]?.[k] ?? 0);
    return out;
  });
  const cpu = evaluatorOf(
    program,
    strands.map((s) => s.value.node),
    new Set(PLACED),
  ).evaluate(params, { ...places, ...FRAME, time: [TIME], loop: [effect.loop ?? 0] }, POINTS);
  return {
    job: { fragment, block: [...fillBlock(text, params, TIME, effect.loop, FRAME)], texture, picks: strands.length },
    cpu,
    ids: strands.map((s) => s.id),
  };
}

/** Runs in the page: draws one row of pixels a strand and reads the floats back. */
function runOnGpu(job: GpuJob): number[][] {
  const width = job.texture[0]!.length / 4;
  const canvas = document.createElement('canvas');
  const gl = canvas.getContext('webgl2')!;
  gl.getExtension('EXT_color_buffer_float');
  const compile = (kind: number, source: string) => {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? 'no reason given');
    return shader;
  };
  const program = gl.createProgram()!;
  gl.attachShader(
    program,
    compile(gl.VERTEX_SHADER, '#version 300 es\nin vec2 p;\nvoid main() { gl_Position = vec4(p, 0.0, 1.0); }'),
  );
  gl.attachShader(program, compile(gl.FRAGMENT_SHADER, job.fragment));
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error(gl.getProgramInfoLog(program) ?? 'no reason given');
  gl.useProgram(program);
  const corners = gl.createBuffer();
  gl.bindBuffer(gl.ARRAY_BUFFER, corners);
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
  gl.enableVertexAttribArray(0);
  gl.bindAttribLocation(program, 0, 'p');
  gl.vertexAttribPointer(gl.getAttribLocation(program, 'p'), 2, gl.FLOAT, false, 0, 0);
  const block = gl.createBuffer();
  gl.bindBufferBase(gl.UNIFORM_BUFFER, 0, block);
  gl.bufferData(gl.UNIFORM_BUFFER, new Float32Array(job.block), gl.STATIC_DRAW);
  const texture = (rows: number, data: Float32Array | null) => {
    const made = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, made);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA32F, width, rows, 0, gl.RGBA, gl.FLOAT, data);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.NEAREST);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.NEAREST);
    return made;
  };
  const target = texture(1, null);
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target, 0);
  texture(job.texture.length, new Float32Array(job.texture.flat()));
  gl.viewport(0, 0, width, 1);
  const results: number[][] = [];
  for (let k = 0; k < job.picks; k++) {
    gl.uniform1i(gl.getUniformLocation(program, 'picked'), k);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    const out = new Float32Array(width * 4);
    gl.readPixels(0, 0, width, 1, gl.RGBA, gl.FLOAT, out);
    results.push([...out]);
  }
  gl.getExtension('WEBGL_lose_context')?.loseContext();
  return results;
}

/** Points where the two differ by more than a tolerance, relative above 1. */
function apart(gpu: number[], cpu: Float32Array[], tolerance: number): number {
  let count = 0;
  for (let k = 0; k < POINTS; k++)
    if (
      cpu.some(
        (plane, lane) =>
          Number.isFinite(plane[k]!) &&
          !(Math.abs(gpu[k * 4 + lane]! - plane[k]!) <= tolerance * Math.max(1, Math.abs(plane[k]!))),
      )
    )
      count++;
  return count;
}

test('every operator agrees within 1e-5, fed with the places themselves', async ({ page }) => {
  const strands: Strand[] = [
    { id: 'here', name: 'Here', op: 'position' },
    { id: 'square', name: 'Square', op: 'uv' },
    { id: 'x', name: 'X', op: 'pick', inputs: { in: { from: 'here' } } },
    { id: 'u', name: 'U', op: 'pick', inputs: { in: { from: 'square' } } },
    { id: 'turned', name: 'Turned', op: 'rotate', inputs: { in: { from: 'here' }, angle: { value: 70 } } },
  ];
  // What would grow without bound, or jump everywhere, rests on its default.
  const REST = new Set(['amount', 'exponent', 'steps', 'octaves', 'lacunarity', 'gain', 'attack', 'decay', 'size', 'index']);
  for (const o of OPERATORS) {
    const inputs: NonNullable<Strand['inputs']> = {};
    for (const [name, record] of Object.entries(o.inputs)) {
      if (record.literal === 'colour' || record.literal === 'vector' || 'f0' === name) continue;
      const takes = (kind: string) =>
        record.kind === 'any' || record.kind === kind || (Array.isArray(record.kind) && record.kind.includes(kind));
      if (takes('3') && !REST.has(name)) inputs[name] = { from: 'here' };
      else if (takes('1') && (['amount', 'exponent'].includes(name) || !REST.has(name)))
        inputs[name] = { from: ['seed', 'rate', 'width', 'falloff'].includes(name) ? 'u' : 'x' };
    }
    // An exponent from the surface, and a base above 0.
    if (o.id === 'power') Object.assign(inputs, { in: { from: 'square' }, exponent: { from: 'u' } });
    if (o.id === 'intensity') inputs.amount = { from: 'u' };
    // What is compared or measured must differ from what it is compared with.
    if (['min', 'max', 'modulo', 'atan2', 'step', 'compare', 'distance'].includes(o.id))
      inputs[o.inputs.edge ? 'edge' : 'b'] = { from: 'u' };
    if (o.id === 'bias' || o.id === 'gain') Object.assign(inputs, { in: { from: 'square' }, amount: { from: 'u' } });
    // Windows keep the ends they rest on, and colours are places.
    if (['height', 'slope', 'harden'].includes(o.id)) for (const end of ['from', 'to', 'low', 'high']) delete inputs[end];
    for (const [name, record] of Object.entries(o.inputs))
      if (record.kind === 'rgb') inputs[name] = { from: name === 'b' ? 'turned' : 'here' };
    for (const [name, record] of Object.entries(o.inputs)) if (record.kind === '2') inputs[name] = { from: 'square' };
    if (o.id === 'dissolve') Object.assign(inputs, { amount: { from: 'u' }, softness: { from: 'u' } });
    // Away from where it is upright.
    if (o.id === 'tan') inputs.in = { from: 'square' };
    if (o.id === 'formula')
      Object.assign(inputs, { formula: { value: { text: 'smoothstep(0.1, 2.0, a) * sin(b * 3.0) + mix(a, c, 0.3)' } } });
    if (o.id === 'shared') inputs.shared = { value: { text: 'tide' } };
    let made = 0;
    for (const [option, values] of Object.entries(o.options).length > 0 ? Object.entries(o.options) : [['', null] as const])
      for (const value of values?.values ?? [''])
        strands.push({
          id: `${o.id.toLowerCase()}${option ? made++ : ''}`,
          name: `${o.id} ${value}`,
          op: o.id,
          inputs,
          options: option ? { [option]: value } : {},
        });
  }
  const { job, cpu, ids } = jobFor(effectOf(strands));
  const gpu = await page.evaluate(runOnGpu, job);
  // Values that jump may fall on the other side of an edge: one point in ten thousand, here none or one.
  const jumps = new Set([
    ...['fract', 'wave2', 'wave3', 'smoothstep', 'remap0', 'remap1', 'divide', 'sign', 'floor', 'ceil', 'round'],
    ...['modulo', 'atan2', 'step', 'compare0', 'compare1', 'compare2', 'choose', 'quantise', 'blend6', 'blend7'],
    ...['polar', 'tile0', 'tile1', 'pixelate', 'scroll0', 'scroll1', 'spin0', 'spin1', 'random', 'pulse'],
  ]);
  const failures = ids.flatMap((id, k) => {
    const count = apart(gpu[k]!, cpu[k]!, 1e-5);
    return count <= (jumps.has(id) ? 1 : 0) ? [] : [`${id}: ${count} of ${POINTS} differ`];
  });
  expect(failures).toEqual([]);
});

test('twelve constructed sheets agree, strand by strand', async ({ page }) => {
  // Twelve programs of many kernels each: a graphics driver without a card takes minutes to make them.
  test.setTimeout(1_500_000);
  let compared = 0;
  for (let seed = 0; seed < 12; seed++) {
    const effect = constructSheet(100 + seed * 7, { strands: 25, noises: 3, tame: true });
    const { job, cpu, ids } = jobFor(effect);
    const gpu = await page.evaluate(runOnGpu, job);
    for (const [k, id] of ids.entries()) {
      // Errors of the first steps grow through the later ones; a sheet may multiply them a hundredfold.
      const count = apart(gpu[k]!, cpu[k]!, 1e-3);
      const op = strandsOf(effect)[k]!.op;
      expect([seed, id, op, count <= POINTS * 0.01 ? 'agrees' : `${count} of ${POINTS} differ`]).toEqual([
        seed,
        id,
        op,
        'agrees',
      ]);
      compared += POINTS;
    }
  }
  expect(compared).toBeGreaterThan(1_000_000);
});
