import { Builder } from '../ir/builder.js';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { sheetsOf } from '../../../tests/fixtures/fills.js';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import type { Effect, Strand } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
import { paramValues } from '../lower/params.js';
import { OPERATORS } from '../operators/catalogue.js';
import { budgetProblems } from './budgets.js';
import { fillBlock } from './block.js';
import { GLSL } from './dialects/glsl.js';
import { emitGlsl } from './glsl.js';
import { slotText } from './plan.js';
import { shaderPair } from './glslPair.js';
import { shortestFloat as glslFloat } from './dialects/floats.js';
import { Names } from './names.js';
import { RESERVED_WORDS } from './reserved.js';

const FLICKER: Strand[] = [
  { id: 't', name: 'Time', op: 'time' },
  { id: 'rate', name: 'Rate', op: 'multiply', inputs: { a: { from: 't' }, b: { value: 3 } } },
  { id: 'breath', name: 'Breath', op: 'noise', inputs: { position: { from: 'rate' } } },
  { id: 'along', name: 'Along tube', op: 'uv' },
  {
    id: 'ends',
    name: 'Ends',
    op: 'smoothstep',
    inputs: { low: { value: 0.1 }, high: { value: 0.2 }, in: { from: 'along', part: 'y' } },
  },
  { id: 'glow', name: 'Glow', op: 'multiply', inputs: { a: { from: 'breath' }, b: { from: 'ends' } } },
];
const flicker = (): Effect => effectOf(FLICKER, { emission: { from: 'glow' } });

describe('hoisting', () => {
  test('what changes once a frame is not in the shader at all', () => {
    const text = emitGlsl(lower(flicker(), { build: 'live' }), { hoist: true });
    expect(text.fragment.library).not.toContain('gradientNoise1');
    expect(text.slots.map((s) => s.name)).toContain('breath');
  });
  test('exported shaders compute it themselves from time and plain numbers', () => {
    const text = emitGlsl(lower(flicker(), { build: 'live' }), { hoist: false });
    expect(text.fragment.library).toContain('gradientNoise1');
    expect(text.slots.map((s) => s.name)).toEqual(expect.arrayContaining(['time', 'rateB', 'endsLow', 'endsHigh']));
  });
  test('frozen text holds its numbers', () => {
    const text = emitGlsl(lower(flicker(), { build: 'frozen' }), { hoist: false });
    expect(text.slots.map((s) => s.name)).toEqual(['time']);
    expect(text.fragment.code).toContain('smoothstep(0.1, 0.2, uv.y)');
  });
});

test('the text reads like its sheet', () => {
  const { fragment } = emitGlsl(lower(flicker(), { build: 'frozen' }), { hoist: true });
  expect(fragment.code).toBe(`struct Surface {
  vec3 emission;
};

Surface surface(vec2 uv) {
  float breath = k[0].x;
  float ends = smoothstep(0.1, 0.2, uv.y);
  float glow = breath * ends;
  Surface s;
  s.emission = vec3(glow);
  return s;
}`);
});

test('the block is packed without gaps where that is possible, and filled in those places', () => {
  const effect = effectOf(
    [
      { id: 'c', name: 'C', op: 'colour', inputs: { in: { value: { rgb: [1, 2, 3], intensity: 2, unit: 'factor' } } } },
      { id: 'u', name: 'U', op: 'uv' },
      { id: 'x', name: 'X', op: 'pick', inputs: { in: { from: 'u' } } },
      { id: 'm', name: 'M', op: 'multiply', inputs: { a: { from: 'x' }, b: { value: 7 } } },
      { id: 'g', name: 'G', op: 'multiply', inputs: { a: { from: 'c' }, b: { from: 'm' } } },
    ],
    { emission: { from: 'g' } },
  );
  const program = lower(effect, { build: 'live' });
  const text = emitGlsl(program, { hoist: true });
  expect(text.vec4s).toBe(1);
  const block = fillBlock(text, paramValues(program.params, effect), 0, 4);
  const slot = (width: number) => text.slots.find((s) => s.width === width)!;
  expect([...block.subarray(slot(3).at, slot(3).at + 3)]).toEqual([2, 4, 6]);
  expect(block[slot(1).at]).toBe(7);
  expect([slotText(0, 4), slotText(4, 3), slotText(6, 2), slotText(3, 1)]).toEqual(['k[0]', 'k[1].xyz', 'k[1].zw', 'k[0].w']);
});

test('a slot lies within one vec4 and shares no place with another', () => {
  let slots = 0;
  for (const operator of OPERATORS)
    for (const { effect } of sheetsOf(operator)) {
      const outputs = { emission: { from: 'tested' }, baseColour: { from: 'three' } };
      const text = emitGlsl(lower({ ...effect, outputs } as Effect, { build: 'live' }), { hoist: slots % 2 === 0 });
      const taken = new Set<number>();
      for (const { at, width } of text.slots) {
        slots++;
        expect(at >> 2).toBe((at + width - 1) >> 2);
        expect(at + width).toBeLessThanOrEqual(text.vec4s * 4);
        for (let k = at; k < at + width; k++) {
          expect(taken.has(k)).toBe(false);
          taken.add(k);
        }
      }
    }
  expect(slots).toBeGreaterThan(500);
});

/** Texts in brackets that stand in brackets by themselves: `f((a + b))`. */
function doubled(text: string): string[] {
  const found: string[] = [];
  const open: number[] = [];
  const closes = new Map<number, number>();
  [...text].forEach((c, k) => {
    if (c === '(') open.push(k);
    if (c === ')') closes.set(open.pop()!, k);
  });
  for (const [from, to] of closes)
    if (text[from + 1] === '(' && closes.get(from + 1) === to - 1) found.push(text.slice(from, to + 1));
  return found;
}

test('no brackets stand around brackets, and none around a name or a number', () => {
  expect(doubled('f((a + b)) * (a)')).toEqual(['((a + b))']);
  for (const operator of OPERATORS)
    for (const { name, effect } of sheetsOf(operator)) {
      const withOutput = { ...effect, outputs: { emission: { from: 'tested' } } } as Effect;
      const { code, library } = emitGlsl(lower(withOutput, { build: 'frozen' }), { hoist: false }).fragment;
      expect([name, doubled(code + library)]).toEqual([name, []]);
      expect([name, (code + library).match(/[-+*/=(] ?\((\w+|[\d.]+)\)/g)]).toEqual([name, null]);
    }
});

test('floats are printed so that they read back as the same float', () => {
  fc.assert(
    fc.property(fc.float({ noNaN: true, noDefaultInfinity: true }), (x) => {
      const text = glslFloat(x);
      expect(text).toMatch(/[.e]/);
      expect(Object.is(Math.fround(Number(text)) + 0, x + 0)).toBe(true);
    }),
    { seed: 1, numRuns: 500 },
  );
  expect(GLSL.constant(new Builder().constant(Infinity)).text).toContain('0x7f800000u');
});

test('a displacement moves the vertices, and only what it needs is in that stage', () => {
  const effect = effectOf(
    [
      { id: 'n', name: 'Normal', op: 'normal', options: { space: 'object' } },
      { id: 'w', name: 'Wave', op: 'wave' },
      { id: 'm', name: 'Push', op: 'multiply', inputs: { a: { from: 'n' }, b: { from: 'w' } } },
      { id: 'u', name: 'U', op: 'uv' },
    ],
    { displacement: { from: 'm' }, emission: { from: 'w' } },
  );
  const text = emitGlsl(lower(effect, { build: 'live' }), { hoist: true });
  expect(text.vertex!.leaves).toEqual(['objectNormal']);
  const { vertex, fragment } = shaderPair(text, effect.finish, 'x');
  expect(vertex).toContain('vec3 movedPosition = position + displacement(normal);');
  expect(fragment).not.toContain('displacement');
});

test('an effect with nothing connected still has a shader', () => {
  const effect = effectOf([]);
  const { fragment } = shaderPair(emitGlsl(lower(effect, { build: 'live' }), { hoist: true }), effect.finish, 'x');
  expect(fragment).toContain('float nothing;');
});

test('names: artists’ words become identifiers, each once', () => {
  const names = new Names(['uv']);
  expect(['Rim tint', 'Rim tint', '3 waves', 'mix', 'uv', 'Größe', 'gl_x', '…'].map((w) => names.give(w, 'strand'))).toEqual([
    'rimTint',
    'rimTint2',
    'strand',
    'mixValue',
    'uv2',
    expect.stringMatching(/^[A-Za-z]+$/),
    'glXValue',
    'strand2',
  ]);
});

describe('artists’ words in shader text', () => {
  const glslang = (fragment: string): string[] => {
    const folder = mkdtempSync(join(tmpdir(), 'wispen-names-'));
    try {
      writeFileSync(join(folder, 'a.frag'), fragment);
      const { stdout } = spawnSync('glslangValidator', ['a.frag'], { cwd: folder, encoding: 'utf8' });
      return stdout.split('\n').filter((line) => line.startsWith('ERROR'));
    } finally {
      rmSync(folder, { recursive: true });
    }
  };
  const shaders: [string, string][] = [];
  /** All at once: starting the compiler takes longer than it does. */
  const faults = (all: readonly (readonly [string, string])[]): string[] => {
    const folder = mkdtempSync(join(tmpdir(), 'wispen-parts-'));
    try {
      const files = all.map(([, code], k) => (writeFileSync(join(folder, `s${k}.frag`), code), `s${k}.frag`));
      const { stdout } = spawnSync('glslangValidator', files, { cwd: folder, encoding: 'utf8', maxBuffer: 2 ** 26 });
      return stdout.split('\n').filter((line) => line.startsWith('ERROR'));
    } finally {
      rmSync(folder, { recursive: true });
    }
  };
  /** Each strand adds a place to the one above it, so that all are needed. */
  const sheet = (names: readonly string[], more: object = {}) =>
    effectOf(
      [
        { id: 'uv', name: 'Place', op: 'uv' },
        ...names.map((name, k): Strand => ({
          id: `s${k}`,
          name,
          op: 'add',
          inputs: {
            a: { from: k === 0 ? 'uv' : `s${k - 1}`, part: k === 0 ? 'x' : undefined },
            b: { from: 'uv', part: 'y' },
          } as never,
        })),
      ],
      { opacity: { from: `s${names.length - 1}` } },
      more,
    );
  test('every word that a shader language keeps for itself may be a strand’s name (glslangValidator, Khronos)', () => {
    const words = [...RESERVED_WORDS];
    expect(words.length).toBeGreaterThan(380);
    // As they are written, and as an artist would: "Image 2D", "Less than", "Shared".
    const said = words.map((w) => w.replace(/([a-z])([A-Z0-9])/g, '$1 $2').replace(/^./, (c) => c.toUpperCase()));
    for (const names of [words, said]) {
      const effect = sheet(names);
      const text = emitGlsl(lower(effect, { build: 'frozen' }), { hoist: false });
      const pair = shaderPair(text, effect.finish, effect.name);
      expect(glslang(pair.fragment)).toEqual([]);
      for (const name of ['shared', 'image2D', 'lessThan', 'texelFetch', 'fn', 'loop'])
        expect(text.fragment.code).not.toMatch(new RegExp(`float ${name} =`));
    }
  });
  test('names of 80 letters that are alike to the last, forty of them', () => {
    const alike = Array.from({ length: 40 }, (_, k) => `${'abcdefgh'.repeat(10).slice(0, 78)}${k}`);
    for (const naming of ['names', 'ids'] as const)
      for (const names of [alike, alike.map(() => 'x'.repeat(80)), [...alike.map((n) => n.slice(0, 48)), ...alike]]) {
        const effect = sheet(names);
        const text = emitGlsl(lower(effect, { build: 'live' }), { hoist: true, naming });
        expect(glslang(shaderPair(text, effect.finish, effect.name).fragment)).toEqual([]);
      }
  });
  test('every part of every kind, at inputs and at outputs', () => {
    const kinds: Strand[] = [
      { id: 'k1', name: 'One', op: 'wave' },
      { id: 'k2', name: 'Two', op: 'uv' },
      { id: 'k3', name: 'Three', op: 'position' },
      { id: 'k4', name: 'Four', op: 'waves' },
      { id: 'krgb', name: 'Hue', op: 'ramp', inputs: { in: { from: 'k1' } } },
    ];
    const parts = ['x', 'xx', 'xxx', 'xxxx', 'y', 'yx', 'zyx', 'wzyx', 'r', 'rrr', 'bgr', 'abgr', 'w', 'ww'];
    for (const port of [undefined, 'each'])
      for (const part of parts) {
        const read = kinds.map((k, n): Strand => ({
          ...{ id: `r${n}`, name: `Read ${n}`, op: 'multiply' },
          inputs: { a: { from: k.id, part, ...(k.id === 'k4' && port ? { port } : {}) } as never, b: { value: 2 } },
        }));
        for (const { id } of read) {
          const outputs = [3, 1].flatMap((width) => {
            const at = width === 1 ? { opacity: { from: id, part: 'x' } } : { emission: { from: id, part: 'xxx' } };
            const direct = width === 1 ? { opacity: { from: kinds[0]!.id, part: 'x' } } : { emission: { from: id } };
            return [at, direct];
          });
          for (const output of outputs) {
            const effect = effectOf([...kinds, ...read], output as never);
            const program = lower(effect, { build: 'live' });
            if (program.problems.length > 0) continue;
            const code = shaderPair(emitGlsl(program, { hoist: false }), effect.finish, '').fragment;
            shaders.push([`${id}.${part} ${JSON.stringify(output)}`, code]);
          }
        }
      }
    expect(shaders.length).toBeGreaterThan(150);
    expect(faults(shaders)).toEqual([]);
  });
  test.each(['\r', '\n', '\r\n', '\u2028', '\u0085', '\\', '\\\r', '\v', '*/', '\f#error '])(
    'an effect’s name with %j in it stays a comment',
    (mark) => {
      const effect = sheet(['Glow'], { name: `Lamp${mark}#error of mine${mark}` });
      const text = emitGlsl(lower(effect, { build: 'frozen' }), { hoist: false });
      const { fragment, vertex } = shaderPair(text, effect.finish, effect.name);
      expect(glslang(fragment)).toEqual([]);
      for (const shader of [fragment, vertex])
        for (const line of shader.split(/[\r\n\v\f\u0085\u2028\u2029]/).filter((l) => /of mine|Lamp/.test(l)))
          expect(line).toMatch(/^\/\/ .*[^\\]$/);
    },
  );
});

test('a sheet beyond what every graphics card takes is told so', () => {
  const many = Array.from({ length: 1400 }, (_, k) => ({
    id: `s${k}`,
    name: `S${k}`,
    op: 'add',
    inputs: { a: k === 0 ? { from: 'p' } : { from: `s${k - 1}` }, b: { value: k } },
  }));
  const place: Strand = { id: 'p', name: 'P', op: 'position' };
  const chain = (length: number) => effectOf([place, ...many.slice(0, length)], { emission: { from: `s${length - 1}` } });
  const problems = (effect: Effect) => budgetProblems(emitGlsl(lower(effect, { build: 'live' }), { hoist: true }));
  expect(problems(chain(1000))).toEqual([]);
  const wide = effectOf(
    [
      place,
      ...many.map((s, k) => ({
        ...s,
        op: 'mix',
        inputs: { a: k === 0 ? { from: 'p' } : { from: `s${k - 1}` }, b: { value: [k, 1, 2] }, amount: { value: 0.5 } },
      })),
    ],
    { emission: { from: 's1399' } },
  );
  expect(problems(wide)).toMatchObject([{ code: 'budget' }]);
});

test('a single number and a repeated one do not make a single number where a vector is wanted', () => {
  const strands: Strand[] = [
    { id: 'u', name: 'U', op: 'uv' },
    { id: 'x', name: 'X', op: 'pick', inputs: { in: { from: 'u' } } },
    { id: 'g', name: 'G', op: 'gain', inputs: { in: { from: 'u' }, amount: { from: 'x' } } },
    { id: 'm', name: 'M', op: 'pick', inputs: { in: { from: 'g' } } },
  ];
  const text = emitGlsl(lower(effectOf(strands, { emission: { from: 'm' } }), { build: 'live' }), { hoist: true });
  // 1 - x alone is one number; the division beside it takes two.
  expect(text.fragment.code).toContain('clamp(1.0 - vec2(x), 0.001, 0.999)');
});
