import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { OPERATORS } from '../core/operators/catalogue.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const tube = join(root, 'demo/starters/failing-tube.wispen.json');
const folder = mkdtempSync(join(tmpdir(), 'wispen-cli-'));
afterAll(() => rmSync(folder, { recursive: true }));

const wispen = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['--import', 'tsx', 'src/cli/main.ts', ...args], {
    cwd: root,
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  return { status, stdout, stderr };
};
const file = (name: string, content: unknown) => {
  const path = join(folder, name);
  writeFileSync(path, typeof content === 'string' ? content : JSON.stringify(content));
  return path;
};

test('check prints what the contract says', () => {
  const { status, stdout } = wispen('check', tube, '--json');
  const report = JSON.parse(stdout);
  expect(status).toBe(0);
  expect(Object.keys(report)).toEqual(['ok', 'errors', 'advice', 'ranges', 'measured', 'cost', 'loop']);
  expect(report).toMatchObject({ ok: true, errors: [], loop: { closes: true, period: 4 } });
  // Sine, fraction and clamp, by hand.
  expect(report.ranges.buzz).toEqual([[-1, 1]]);
  expect(report.ranges.stutter).toEqual([[0, 1]]);
  expect(report.ranges.breath).toEqual([[-1, 1]]);
});

test('check refuses a cycle with one sentence on stderr and exit 1', () => {
  const cyclic = file('cyclic.wispen.json', {
    format: 'wispen-effect',
    version: 1,
    id: '01',
    name: 'C',
    strands: [
      { id: 'a', name: 'A', op: 'fract', inputs: { in: { from: 'b' } } },
      { id: 'b', name: 'B', op: 'fract' },
    ],
  });
  const { status, stdout, stderr } = wispen('check', cyclic, '--json');
  expect(status).toBe(1);
  expect(stderr.trim().split('\n')).toHaveLength(1);
  expect(stderr).toContain('reads B, which stands below it');
  expect(JSON.parse(stdout)).toMatchObject({ ok: false, errors: [{ strand: 'a', code: 'order' }] });
});

test('eval gives every strand’s numbers at points, the time taken modulo the loop', () => {
  const points = file('points.json', [
    { time: 0.25 },
    { time: 4.25 },
    { time: 0.25, uv: [0.5, 0.01], vertexColour: [1, 0, 0, 1] },
  ]);
  const rows = JSON.parse(wispen('eval', tube, '--points', points).stdout) as Record<string, number[]>[];
  expect(rows).toHaveLength(3);
  // sin(2 pi 1.5 x 0.25)
  expect(rows[0]!.buzz![0]).toBeCloseTo(Math.sin(2 * Math.PI * 0.375), 5);
  expect(rows[1]).toEqual(rows[0]);
  expect(rows[2]!.left).toEqual([0]);
  const some = JSON.parse(wispen('eval', tube, '--points', points, '--strand', 'lit', '--variant', 'Organic').stdout) as Record<
    string,
    number[]
  >[];
  expect(Object.keys(some[0]!)).toEqual(['lit']);
  expect(wispen('eval', tube, '--points', file('bad.json', [{ tiem: 1 }])).stderr).toContain('"tiem"');
});

test('compile writes a pair that links, and says what the block holds; frozen leaves only time', () => {
  for (const freeze of [[], ['--freeze']]) {
    const out = join(folder, `glsl${freeze.length}`);
    expect(wispen('compile', tube, '--target', 'glsl', '--out', out, ...freeze).status).toBe(0);
    expect(spawnSync('glslangValidator', ['-l', 'effect.vert', 'effect.frag'], { cwd: out }).status).toBe(0);
    const uniforms = JSON.parse(readFileSync(join(out, 'uniforms.json'), 'utf8')) as {
      slots: { name: string; value: number[] }[];
    };
    if (freeze.length > 0) expect(uniforms.slots.map((s) => s.name)).toEqual(['time']);
    else expect(uniforms.slots.find((s) => s.name === 'buzzRate')!.value).toEqual([1.5]);
    expect(readdirSync(out).some((f) => f.endsWith('.part'))).toBe(false);
  }
  const out = join(folder, 'wasm');
  expect(wispen('compile', tube, '--target', 'wasm', '--out', out).status).toBe(0);
  expect(WebAssembly.validate(readFileSync(join(out, 'effect.wasm')))).toBe(true);
  expect(wispen('compile', tube, '--target', 'listing', '--out', out).status).toBe(0);
  expect(readFileSync(join(out, 'effect.txt'), 'utf8')).toMatch(/^emission = %\d+, %\d+, %\d+$/m);
});

test('operators and schema', () => {
  const list = JSON.parse(wispen('operators', '--json').stdout) as { id: string }[];
  expect(list.map((o) => o.id)).toEqual(OPERATORS.map((o) => o.id));
  expect(JSON.parse(wispen('schema').stdout)['wispen-effect'].properties.format).toEqual({
    type: 'string',
    const: 'wispen-effect',
  });
});

test('wrong usage is exit 2, missing files exit 1, and nothing is written', () => {
  expect(wispen('sparkle').status).toBe(2);
  expect(wispen('check').status).toBe(2);
  expect(wispen('compile', tube, '--target', 'stone', '--out', join(folder, 'no')).status).toBe(2);
  expect(wispen('check', join(folder, 'none.json')).status).toBe(1);
  expect(wispen('compile', file('broken.json', '{'), '--target', 'glsl', '--out', join(folder, 'no')).status).toBe(1);
  expect(existsSync(join(folder, 'no'))).toBe(false);
});
