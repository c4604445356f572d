/** One lowering, many readings: they must agree on constructed sheets that hold every operator. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { samplePlaces } from '../src/core/places/spread.js';
import { strandsOf, type Effect } from '../src/core/effect/schema.js';
import { writeEffect } from '../src/core/effect/write.js';
import { Builder } from '../src/core/ir/builder.js';
import { randomAt } from '../src/core/ir/kernels/hash.js';
import { LEAF_NAMES, LEAVES, type Leaf } from '../src/core/ir/leaves.js';
import { lower } from '../src/core/lower/lower.js';
import { paramValues } from '../src/core/lower/params.js';
import { OPERATORS } from '../src/core/operators/catalogue.js';
import { ranges } from '../src/core/passes/ranges.js';
import { scalarise } from '../src/core/passes/scalarise.js';
import { emitGlsl } from '../src/core/targets/glsl.js';
import { shaderPair } from '../src/core/targets/glslPair.js';
import { evaluate } from '../src/core/targets/reference.js';
import { emitWasm } from '../src/core/targets/wasm/module.js';
import { WasmRunner, type LeafValues } from '../src/core/targets/wasm/runner.js';
import { sheetsOf } from './fixtures/fills.js';
import { PICTURES, constructSheet, effectOf, randomFrom } from './fixtures/sheets.js';

// `npm run test:deep` is for a night: more sheets, and longer ones.
const DEEP = process.env.WISPEN_DEEP !== undefined;
const SHEETS = DEEP ? 10_000 : 120;
const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..');
const POINTS = 24;
const sheets: Effect[] = Array.from({ length: SHEETS }, (_, k) => constructSheet(k, { strands: 4 + (k % (DEEP ? 197 : 37)) }));

const leaves: LeafValues = {
  ...samplePlaces(POINTS),
  time: [Float32Array.from({ length: POINTS }, (_, k) => (k * 4) / POINTS)],
  timeRest: [0],
  loop: [4],
  propRandom: [0.3],
};
/** Twelve days, for sheets that run on. */
const days = Array.from({ length: POINTS }, (_, k) => (1e6 * k) / POINTS + k * 0.137);
const leavesOf = ({ loop }: Effect): LeafValues =>
  loop !== null
    ? leaves
    : {
        ...leaves,
        loop: [0],
        time: [Float32Array.from(days)],
        timeRest: [Float32Array.from(days, (t) => t - Math.fround(t))],
      };
const sampleOf = (from: LeafValues, k: number) =>
  Object.fromEntries(LEAF_NAMES.map((l) => [l, from[l]!.map((lane) => (typeof lane === 'number' ? lane : lane[k]!))]));

test('every operator occurs at least five times', () => {
  const uses = new Map<string, number>();
  for (const s of sheets.flatMap(strandsOf)) uses.set(s.op, (uses.get(s.op) ?? 0) + 1);
  for (const o of OPERATORS) expect([o.id, (uses.get(o.id) ?? 0) >= 5]).toEqual([o.id, true]);
});

test('WebAssembly equals the reference evaluator to the bit', () => {
  let compared = 0;
  for (const effect of sheets) {
    const program = lower(effect, { build: 'live' });
    const params = paramValues(program.params, effect);
    const scalar = scalarise([...program.strands.values()].map((s) => s.value.node));
    const varying = new Set(LEAF_NAMES.filter((l) => l !== 'loop'));
    const results = WasmRunner.make(emitWasm(scalar, varying, params.length), PICTURES).evaluate(
      params,
      leavesOf(effect),
      POINTS,
    );
    for (let k = 0; k < POINTS; k += 5) {
      const expected = evaluate(scalar, { params, leaves: sampleOf(leavesOf(effect), k), pictures: PICTURES });
      expected.forEach((root, r) =>
        root.forEach((value, lane) => {
          compared++;
          const got = results[r]![lane]![k]!;
          // The sign of a zero and the payload of a NaN are not values an artist can meet.
          if (!Object.is(got + 0, value + 0)) throw new Error(`${effect.id} ${strandsOf(effect)[r]!.op}: ${got} is not ${value}`);
        }),
      );
    }
  }
  expect(compared).toBeGreaterThan(8000);
});

test('so it does on extreme inputs, at every operator with every option', () => {
  const EXTREME = [
    0,
    -0,
    1,
    -1,
    0.5,
    1e-45,
    -1e-38,
    16777216,
    2147483648,
    -2147483904,
    4e9,
    1e20,
    -3e38,
    Infinity,
    -Infinity,
    NaN,
  ];
  const random = randomFrom(15);
  const any = () => EXTREME[Math.floor(random() * EXTREME.length)]!;
  const points = 16;
  let compared = 0;
  for (const operator of OPERATORS)
    for (const { name, effect } of sheetsOf(operator)) {
      const program = lower(effect, { build: 'live' });
      const params = paramValues(program.params, effect);
      const ports = Object.values(program.strands.get('tested')!.ports);
      const scalar = scalarise(ports.map((p) => p.node));
      const varying = new Set(LEAF_NAMES.filter((l) => l !== 'loop'));
      const values = Object.fromEntries(
        LEAF_NAMES.map((l) => [l, LEAVES[l].fallback.map(() => Float32Array.from({ length: points }, any))]),
      ) as Record<Leaf, Float32Array[]>;
      const runner = WasmRunner.make(emitWasm(scalar, varying, params.length), PICTURES);
      const results = runner.evaluate(params, { ...values, loop: [4] }, points);
      for (let k = 0; k < points; k++) {
        const at = Object.fromEntries(LEAF_NAMES.map((l) => [l, l === 'loop' ? [4] : values[l].map((lane) => lane[k]!)]));
        evaluate(scalar, { params, leaves: at, pictures: PICTURES }).forEach((root, r) =>
          root.forEach((wanted, lane) => {
            compared++;
            const got = results[r]![lane]![k]!;
            if (!Object.is(got + 0, wanted + 0))
              throw new Error(`${name}, port ${r}: ${got} is not ${wanted}, at ${JSON.stringify(at)}`);
          }),
        );
      }
    }
  expect(compared).toBeGreaterThan(8000);
});

test.each(['neg', 'abs', 'add'] as const)('what is no number is one cell to both, however a machine writes it: %s', (op) => {
  // Infinity times 0: a NaN has a sign and a payload, which `neg` and `abs` change on one machine and not on another.
  const b = new Builder();
  const nothing = b.mul(b.leaf('uv'), b.param(0, 1));
  const turned = op === 'add' ? b.add(nothing, 1) : b.op(op, nothing);
  const scalar = scalarise([
    randomAt(b, b.op('floor', turned), b.constant(0)),
    randomAt(b, b.op('floor', nothing), b.constant(0)),
  ]);
  const uv = [Float32Array.of(Infinity), Float32Array.of(-Infinity)];
  const got = WasmRunner.make(emitWasm(scalar, new Set(['uv']), 1)).evaluate([0], { uv }, 1);
  const wanted = evaluate(scalar, { params: [0], leaves: { uv: [Infinity, -Infinity] } });
  expect(got.map((root) => root.map((lane) => lane[0]))).toEqual(wanted);
  // And it is one cell: whatever was done to it.
  expect(wanted[0]).toEqual(wanted[1]);
});

test('frozen equals live, within what folding in another order can change', () => {
  for (const effect of sheets.slice(0, 40)) {
    const live = lower(effect, { build: 'live' });
    const frozen = lower(effect, { build: 'frozen' });
    expect(frozen.paramBounds).toHaveLength(0);
    const roots = (p: typeof live) => scalarise([...p.strands.values()].map((s) => s.value.node));
    for (let k = 0; k < POINTS; k += 7) {
      const a = evaluate(roots(live), {
        params: paramValues(live.params, effect),
        leaves: sampleOf(leaves, k),
        pictures: PICTURES,
      });
      const b = evaluate(roots(frozen), { params: [], leaves: sampleOf(leaves, k), pictures: PICTURES });
      a.flat().forEach((v, j) => {
        const w = b.flat()[j]!;
        if (Number.isFinite(v)) expect(Math.abs(v - w)).toBeLessThanOrEqual(1e-5 * Math.max(1, Math.abs(v)));
      });
    }
  }
});

test('what a value can be contains every value it has', () => {
  // By WebAssembly, which is the reference's twin, at many more places.
  const count = 1024;
  const random = randomFrom(99);
  const places = { ...samplePlaces(count), propRandom: [Float32Array.from({ length: count }, () => random())] };
  let checked = 0;
  for (const effect of sheets) {
    const { loop } = effect;
    const program = lower(effect, { build: 'live' });
    const params = paramValues(program.params, effect);
    const roots = [...program.strands.values()].map((s) => s.value.node);
    const bounds = ranges(scalarise(roots, { paste: false }), program.paramBounds, loop);
    const times = Array.from({ length: count }, () => random() * (loop ?? 1e6));
    const time = {
      time: [Float32Array.from(times)],
      timeRest: [Float32Array.from(times, (t) => (loop === null ? t - Math.fround(t) : 0))],
    };
    const varying = new Set(LEAF_NAMES.filter((l) => l !== 'loop'));
    const runner = WasmRunner.make(emitWasm(scalarise(roots), varying, params.length, count), PICTURES);
    runner.view(params, { ...places, ...time, loop: [loop ?? 0] }, count).forEach((root, r) =>
      root.forEach((lane, l) => {
        const { low, high } = bounds[r]![l]!;
        checked += count;
        // To the last bit: nothing is let through.
        const out = lane.findIndex((v) => v === v && !(v >= low && v <= high));
        if (out >= 0) throw new Error(`${strandsOf(effect)[r]!.op}: ${lane[out]!} outside ${low} .. ${high}`);
      }),
    );
  }
  expect(checked).toBeGreaterThan(3_000_000);
});

test('every generated shader pair compiles and links (glslangValidator, Khronos)', () => {
  const folder = mkdtempSync(join(tmpdir(), 'wispen-glsl-'));
  try {
    sheets.forEach((effect, k) => {
      for (const build of ['live', 'frozen'] as const) {
        const text = emitGlsl(lower(effect, { build }), { hoist: k % 2 === 0, lit: effect.finish.lighting === 'lit' });
        const pair = shaderPair(text, { ...effect.finish, lighting: k % 3 === 0 ? 'unlit' : 'lit' }, effect.name);
        writeFileSync(join(folder, `${k}${build}.vert`), pair.vertex);
        writeFileSync(join(folder, `${k}${build}.frag`), pair.fragment);
      }
    });
    const files = readdirSync(folder).sort();
    const compiled = spawnSync('glslangValidator', files, { cwd: folder, encoding: 'utf8' });
    const errors = compiled.stdout.split('\n').filter((l) => l.startsWith('ERROR'));
    expect(errors.slice(0, 5)).toEqual([]);
    expect(compiled.status).toBe(0);
    // Linking is by pair: a sample of them, the rest of the interface being the same text.
    for (let k = 0; k < SHEETS; k += 10) {
      const linked = spawnSync('glslangValidator', ['-l', `${k}live.vert`, `${k}live.frag`], { cwd: folder, encoding: 'utf8' });
      expect([linked.status, linked.stdout.includes('ERROR')]).toEqual([0, false]);
    }
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test('changing any literal leaves the program as it is', () => {
  for (const effect of sheets.slice(0, 60)) {
    const text = (e: Effect) => {
      const { block, fragment, vertex } = emitGlsl(lower(e, { build: 'live' }), { hoist: true, naming: 'ids' });
      return [block, fragment.library, fragment.code, vertex?.code].join('\n');
    };
    const changed = structuredClone(effect);
    for (const s of strandsOf(changed)) {
      s.name += ' renamed';
      for (const input of Object.values(s.inputs ?? {}))
        if (input && 'value' in input) {
          if (typeof input.value === 'number') input.value = input.value === 0 ? 1 : 0;
          else if (Array.isArray(input.value)) input.value = input.value.map(() => 1);
          else if (typeof input.value === 'object' && 'rgb' in input.value)
            input.value = { rgb: [1, 0, 0], intensity: 0, unit: 'stops' };
        }
    }
    expect(text(changed)).toBe(text(effect));
  }
});

test('names that would clash with the shader’s own words and functions are told apart', () => {
  const words = [
    'Power',
    'noise',
    'Mix',
    'gl_Position',
    'vec3',
    'surface',
    'Surface',
    'position',
    'float',
    '深い',
    '1st',
    'k',
    'lowbias32',
    'gradientNoise3',
    'exp2Kernel',
    'main',
    'Lit',
    'lit',
  ];
  const strands = words.map((name, k) => ({
    id: `s${k}`,
    name,
    op: 'power',
    inputs: { in: k === 0 ? { from: 'p' } : { from: `s${k - 1}` }, exponent: { value: 1.1 } },
  }));
  const noise = { id: 'p', name: 'Noise', op: 'noise', inputs: {} };
  const effect = effectOf([noise, ...strands], { emission: { from: `s${words.length - 1}` } });
  const folder = mkdtempSync(join(tmpdir(), 'wispen-names-'));
  for (const naming of ['names', 'ids'] as const) {
    const pair = shaderPair(
      emitGlsl(lower(effect, { build: 'live' }), { hoist: true, naming, lit: effect.finish.lighting === 'lit' }),
      effect.finish,
      'x',
    );
    writeFileSync(join(folder, 'a.vert'), pair.vertex);
    writeFileSync(join(folder, 'a.frag'), pair.fragment);
    const { status, stdout } = spawnSync('glslangValidator', ['-l', 'a.vert', 'a.frag'], { cwd: folder, encoding: 'utf8' });
    expect([status, stdout.split('\n').filter((l) => l.startsWith('ERROR'))]).toEqual([0, []]);
  }
  rmSync(folder, { recursive: true });
});

test('a sheet’s text does not depend on what was compiled before it', () => {
  // Named as functions of kernels that are made when they are first asked for, and that it does not call itself.
  const strands = ['turbulence3x8', 'cells2chess', 'noiseSlice3'].map((name, k) => ({
    id: `s${k}`,
    name,
    op: 'sin',
    inputs: { in: k === 0 ? { from: 'p' } : { from: `s${k - 1}` } },
  }));
  const effect = effectOf([{ id: 'p', name: 'p', op: 'position' }, ...strands], { emission: { from: 's2' } });
  const folder = mkdtempSync(join(tmpdir(), 'wispen-order-'));
  try {
    writeFileSync(join(folder, 'effect.json'), writeEffect(effect));
    // A process of its own has compiled nothing else.
    const args = [
      '--import',
      'tsx',
      'src/cli/main.ts',
      'compile',
      join(folder, 'effect.json'),
      '--target',
      'glsl',
      '--out',
      folder,
    ];
    const { status, stderr } = spawnSync(process.execPath, args, { encoding: 'utf8', cwd: ROOT });
    expect([status, stderr]).toEqual([0, '']);
    const alone = readFileSync(
      join(
        folder,
        readdirSync(folder).find((f) => f.endsWith('.frag'))!,
      ),
      'utf8',
    );
    const used = ['fractal', 'cells', 'noise'].map((op) => ({
      id: op,
      name: op,
      op,
      inputs: { churn: { value: 1 } },
      options: op === 'fractal' ? { kind: 'turbulence' } : op === 'cells' ? { metric: 'chess' } : {},
    }));
    for (const build of ['live', 'frozen'] as const) lower(effectOf(used), { build });
    expect(alone).toContain('vec3 turbulence3x8 =');
    const text = emitGlsl(lower(effect, { build: 'live' }), { hoist: false, lit: true });
    expect(alone).toContain(text.fragment.code);
  } finally {
    rmSync(folder, { recursive: true });
  }
});
