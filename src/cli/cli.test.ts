import { createHash } from 'node:crypto';
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { encode } from 'fast-png';
import { PNG } from 'pngjs';
import { COMMAND, buildCommand } from '../../tests/fixtures/command.js';
import { effectOf } from '../../tests/fixtures/sheets.js';
import { writeBundle } from '../core/formats/bundle.js';
import { readImage } from '../core/formats/imageFile.js';
import { OPERATORS } from '../core/operators/catalogue.js';

const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const tube = join(root, 'demo/starters/failing-tube.wispen.json');
const folder = mkdtempSync(join(tmpdir(), 'wispen-cli-'));
afterAll(() => rmSync(folder, { recursive: true }));

beforeAll(async () => void (await buildCommand()));

const wispen = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [COMMAND, ...args], {
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

test('as it is run by hand', () => {
  const { status, stdout } = spawnSync('npm', ['run', '-s', 'wispen', '--', 'check', tube], { cwd: root, encoding: 'utf8' });
  expect([status, stdout]).toEqual([0, expect.stringContaining('loop: closes')]);
});

test('a text that begins with a mark of its byte order is read; a folder is not', () => {
  const marked = file('marked.wispen.json', `\uFEFF${readFileSync(tube, 'utf8')}`);
  expect(wispen('check', marked).status).toBe(0);
  const { status, stderr } = wispen('check', folder);
  expect([status, stderr]).toEqual([1, `wispen: ${folder}: ${folder} cannot be read: it is a folder.\n`]);
});

test('whoever stops reading ends it without a word', async () => {
  const child = spawn(process.execPath, [COMMAND, 'operators', '--json'], { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  child.stderr.on('data', (text: Buffer) => void (said += text.toString()));
  child.stdout.destroy();
  expect([await new Promise((done) => child.on('exit', done)), said]).toEqual([0, '']);
});

test('what cannot be written is said, and nothing is left of it', () => {
  const dir = join(folder, 'taken');
  mkdirSync(join(dir, 'effect.frag'), { recursive: true });
  const { status, stderr } = wispen('compile', tube, '--target', 'glsl', '--out', dir);
  expect([status, stderr]).toEqual([1, `wispen: ${join(dir, 'effect.frag')} is a folder.\n`]);
  expect(readdirSync(dir).filter((name) => name.endsWith('.part'))).toEqual([]);
  const blocked = wispen('compile', tube, '--target', 'glsl', '--out', join(tube, 'shaders'));
  expect([blocked.status, blocked.stderr.split('\n').length]).toEqual([1, 2]);
});

test('a copy of the data folder is made and put back by the command', () => {
  const data = join(folder, 'data');
  expect(wispen('backup', '--data', data)).toMatchObject({
    status: 1,
    stderr: expect.stringContaining('There is no wispen.sqlite'),
  });
  const made = spawnSync(
    process.execPath,
    [
      '--import',
      'tsx',
      '--input-type=module',
      '-e',
      "import { openDatabase } from './src/store/database.ts'; await (await openDatabase(process.argv[1])).close();",
      data,
    ],
    { cwd: root, encoding: 'utf8' },
  );
  expect([made.status, made.stderr]).toEqual([0, '']);
  const copy = wispen('backup', '--data', data);
  expect(copy.status).toBe(0);
  writeFileSync(join(data, 'wispen.sqlite'), 'torn');
  const back = wispen('restore', copy.stdout.trim(), '--data', data);
  expect([back.status, back.stderr]).toEqual([0, expect.stringMatching(/^What was there before is kept as .*before-restore/)]);
  expect(readFileSync(join(data, 'wispen.sqlite')).subarray(0, 6).toString()).toBe('SQLite');
  expect(wispen('restore').status).toBe(2);
});

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

test('compile writes a WGSL module that says where everything is bound', () => {
  const out = join(folder, 'wgsl');
  expect(wispen('compile', tube, '--target', 'wgsl', '--out', out).status).toBe(0);
  const module = readFileSync(join(out, 'effect.wgsl'), 'utf8');
  const about = JSON.parse(readFileSync(join(out, 'uniforms.json'), 'utf8')) as {
    vec4s: number;
    entries: Record<string, string>;
    attributes: { name: string; location: number; format: string }[];
    slots: { name: string; vec4: number }[];
  };
  expect(module).toContain(`k: array<vec4f, ${about.vec4s}>`);
  for (const entry of Object.values(about.entries)) expect(module).toContain(`fn ${entry}(`);
  for (const { name, location } of about.attributes) expect(module).toContain(`@location(${location}) ${name}: `);
  expect(about.slots.map((s) => s.name)).toContain('time');
  expect(Math.max(...about.slots.map((s) => s.vec4))).toBeLessThan(about.vec4s);
});

test('what runs on is told exactly after twelve days, and its export asks for what a float has not of the time', () => {
  const hum = file('hum.json', {
    ...{ format: 'wispen-effect', version: 1, id: '0190-hum', name: 'Hum', loop: null },
    strands: [{ id: 'hum', name: 'Hum', op: 'wave', inputs: { rate: { value: 0.75 } } }],
    outputs: { opacity: { from: 'hum' } },
  });
  // 0.75 Hz has come round after a million seconds: 750,000 times.
  const points = file('late.json', [{ time: 0.0137 }, { time: 1e6 + 0.0137 }, { time: 1e6 + 0.0147 }]);
  const rows = JSON.parse(wispen('eval', hum, '--points', points).stdout) as { hum: [number] }[];
  expect(rows[1]!.hum[0]).toBeCloseTo(rows[0]!.hum[0], 6);
  expect(rows[2]!.hum[0]).toBeCloseTo(Math.sin(2 * Math.PI * 0.75 * 0.0147), 5);
  const out = join(folder, 'hum');
  expect(wispen('compile', hum, '--target', 'glsl', '--out', out).status).toBe(0);
  expect(spawnSync('glslangValidator', ['-l', 'effect.vert', 'effect.frag'], { cwd: out }).status).toBe(0);
  const { slots } = JSON.parse(readFileSync(join(out, 'uniforms.json'), 'utf8')) as { slots: { name: string; source: string }[] };
  expect(slots.map((s) => s.name)).toEqual(expect.arrayContaining(['time', 'timeRest']));
});

test('compile says all that a host needs to draw it: finish, blending, dials, variants, attributes', () => {
  const about = (name: string, ...more: string[]) => {
    const out = join(folder, `host-${name}-${more.length}`);
    const from = join('demo/starters', `${name}.wispen.json`);
    expect(wispen('compile', from, '--target', 'glsl', '--out', out, ...more).status).toBe(0);
    return JSON.parse(readFileSync(join(out, 'uniforms.json'), 'utf8')) as {
      finish: { alphaMode: string };
      blending: object;
      sides: string;
      depthWrite: boolean;
      dials: { name: string; unit: string; range: unknown; default: unknown; slots: string[] }[];
      variants: { name: string; values: object }[];
      attributes: { name: string; means: string }[];
      images: { file: string | null }[];
      slots: { name: string; unit?: string; value: number[] }[];
    };
  };
  const kelp = about('kelp-current');
  expect([kelp.finish.alphaMode, kelp.sides, kelp.depthWrite]).toEqual(['opaque', 'both', true]);
  expect(kelp.attributes.map((a) => a.name)).toEqual(['position', 'normal', 'vertexColour', 'vertexColourDt', 'vertexColourDb']);
  for (const { means } of kelp.attributes) expect(means.length).toBeGreaterThan(8);
  const heading = kelp.dials.find((d) => d.name === 'One heading')!;
  expect([heading.unit, heading.range, heading.default]).toEqual(['deg', [-180, 180], 12]);
  // A dial in degrees turns a slot in radians.
  const slot = kelp.slots.find((s) => s.name === heading.slots[0])!;
  expect([slot.unit, slot.value[0]!.toFixed(6)]).toEqual(['rad', ((12 * Math.PI) / 180).toFixed(6)]);
  expect(kelp.variants.map((v) => v.name)).toContain('Young growth');
  // A variant is compiled as it is worn; its dials say so.
  const young = about('kelp-current', '--variant', 'Young growth');
  expect(young.dials.find((d) => d.name === 'Response')!.default).toBe(1.5);
  expect(about('chart-hologram').blending).toMatchObject({ mode: 'cover', alpha: 'straight' });
  expect(about('sampling-dome').blending).toMatchObject({ mode: 'none' });
  // Its image did not come with the text.
  expect(about('sampling-dome').images.every((image) => image.file === null)).toBe(true);
  const none = wispen(
    'compile',
    'demo/starters/kelp-current.wispen.json',
    '--target',
    'glsl',
    '--out',
    join(folder, 'no'),
    '--variant',
    'Old',
  );
  expect([none.status, none.stderr]).toEqual([1, expect.stringContaining('there is no variant Old')]);
});

test('what is compiled says whether light falls from it that it leaves behind', () => {
  const said = (name: string) => {
    const out = join(folder, `spill-${name}`);
    expect(wispen('compile', join('demo/starters', `${name}.wispen.json`), '--target', 'glsl', '--out', out).status).toBe(0);
    return /emission lights what stands about it/.test(readFileSync(join(out, 'effect.frag'), 'utf8'));
  };
  expect([said('hatch-sign'), said('tide-inlet')]).toEqual([true, false]);
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

test('points carry depth, screen and edges by the names of the contract, and a wrong width is refused', () => {
  const effect = file('depth.wispen.json', {
    ...{ format: 'wispen-effect', version: 1, id: 'depth', name: 'Depth' },
    strands: [
      { id: 'g', name: 'G', op: 'depthGap' },
      { id: 'r', name: 'R', op: 'depthGap', options: { along: 'ray' } },
      { id: 'e', name: 'E', op: 'edgeDistance', options: { unit: 'metres' } },
      { id: 's', name: 'S', op: 'screen' },
      { id: 'v', name: 'V', op: 'vertexColour' },
    ],
  });
  const points = file('depth-points.json', [
    { depthGap: 0.3, edgeDistance: 0.02, screen: [0.25, 0.75], vertexColour: [0.5, 0.25, 1, 0] },
    {},
  ]);
  const [given, absent] = JSON.parse(wispen('eval', effect, '--points', points).stdout) as Record<string, number[]>[];
  expect(given!.g![0]).toBeCloseTo(0.3, 6);
  expect(given!.r![0]).toBeCloseTo(0.3, 6);
  expect(given!.e![0]).toBeCloseTo(0.02, 6);
  expect([given!.s, given!.v]).toEqual([
    [0.25, 0.75],
    [0.5, 0.25, 1, 0],
  ]);
  expect([absent!.g, absent!.v]).toEqual([[50], [1, 1, 1, 1]]);
  const wrong = wispen('eval', effect, '--points', file('wrong-points.json', [{ screen: 5 }]));
  expect([wrong.status, wrong.stderr]).toEqual([1, expect.stringMatching(/point 1: screen takes 2 numbers/)]);
});

describe('bake', () => {
  const out = (name: string) => join(folder, name);
  test('frames become whole files, by two threads, with the numbers that eval gives', async () => {
    const dir = out('exr');
    const run = wispen(
      'bake',
      tube,
      '--output',
      'emission',
      '--size',
      '24x16',
      '--frames',
      '3-6',
      '--format',
      'exr',
      '--out',
      dir,
      '--threads',
      '2',
    );
    expect([run.status, run.stderr]).toEqual([0, expect.stringMatching(/4 of 4 frames/)]);
    expect(readdirSync(dir).sort()).toEqual([3, 4, 5, 6].map((k) => `emission.000${k}.exr`));
    const picture = await readImage(new Uint8Array(readFileSync(join(dir, 'emission.0005.exr'))), 'linear', () =>
      Promise.reject(new Error('none')),
    );
    const { width, height, texels } = picture.levels[0]!;
    expect([width, height]).toEqual([24, 16]);
    const effect = JSON.parse(readFileSync(tube, 'utf8')) as { fps?: number; outputs: { emission: { from: string } } };
    const strand = effect.outputs.emission.from;
    const uv = [(7 + 0.5) / 24, 1 - (4 + 0.5) / 16];
    const points = file(
      'bake-points.json',
      JSON.stringify([{ uv, position: [uv[0]! - 0.5, uv[1]! - 0.5, 0], time: 5 / (effect.fps ?? 30) }]),
    );
    const [wanted] = JSON.parse(wispen('eval', tube, '--points', points, '--strand', strand).stdout) as Record<
      string,
      number[]
    >[];
    wanted![strand]!.forEach((v, c) => expect(Math.abs(texels[(4 * 24 + 7) * 4 + c]! - v)).toBeLessThan(2e-3 * Math.max(1, v)));
  });
  test('PNG of 16 bits, read by pngjs; a frame is its own, and comes again after the loop', () => {
    const dir = out('png');
    expect(
      wispen('bake', tube, '--size', '16', '--frames', '0-121', '--format', 'png', '--out', dir, '--threads', '2').status,
    ).toBe(0);
    const frame = (k: number) => readFileSync(join(dir, `emission.${String(k).padStart(4, '0')}.png`));
    const png = PNG.sync.read(frame(0));
    expect([png.width, png.height, png.depth]).toEqual([16, 16, 16]);
    expect(frame(120).equals(frame(0))).toBe(true);
    expect(frame(7).equals(frame(0))).toBe(false);
  });
  test('stopped in the middle, it leaves whole files only', async () => {
    const dir = out('stopped');
    mkdirSync(dir, { recursive: true });
    // Somebody else's, in the same folder.
    writeFileSync(join(dir, 'download.part'), 'half of theirs');
    const child = spawn(
      process.execPath,
      [COMMAND, 'bake', tube, '--size', '256', '--frames', '0-400', '--out', dir, '--threads', '2'],
      { cwd: root, env: { ...process.env, NODE_OPTIONS: '' }, stdio: ['ignore', 'ignore', 'pipe'] },
    );
    let said = '';
    child.stderr.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      // Once: a second one may meet it after it has done what it had to.
      if (/^5 of/m.test(said) && !child.killed) child.kill('SIGINT');
    });
    const code = await new Promise((done) => child.on('exit', done));
    expect([code, said]).toEqual([1, expect.stringMatching(/stopped after \d+ of 401 frames; those are whole\.\n$/)]);
    expect(readFileSync(join(dir, 'download.part'), 'utf8')).toBe('half of theirs');
    rmSync(join(dir, 'download.part'));
    const names = readdirSync(dir);
    expect(names.length).toBeGreaterThanOrEqual(5);
    expect(names.every((n) => /^emission\.\d{4}\.png$/.test(n))).toBe(true);
    for (const name of names) expect(() => PNG.sync.read(readFileSync(join(dir, name)))).not.toThrow();
  });
  test('a bundle is baked with its image: texels come out as they went in, and without the bundle it says what is missing', async () => {
    const png = encode({
      width: 2,
      height: 2,
      data: Uint8Array.from([255, 0, 0, 0, 255, 0, 0, 0, 255, 255, 255, 255]),
      channels: 3,
      depth: 8,
    });
    const sha256 = createHash('sha256').update(png).digest('hex');
    const effect = effectOf(
      [{ id: 'i', name: 'I', op: 'image', inputs: { image: { value: { asset: 'stain' } } }, options: { filter: 'nearest' } }],
      { emission: { from: 'i' } },
      { assets: { stain: { sha256, name: 'stain.png', type: 'image/png', colour: 'data', size: [2, 2] } } },
    );
    const bundle = join(folder, 'stain.wispen');
    writeFileSync(bundle, writeBundle({ effects: [effect], stages: [], assets: new Map([[sha256, png]]) }));
    const dir = out('stain');
    expect(wispen('bake', bundle, '--size', '2', '--format', 'exr', '--out', dir).status).toBe(0);
    const baked = await readImage(new Uint8Array(readFileSync(join(dir, 'emission.0000.exr'))), 'linear', () =>
      Promise.reject(new Error('none')),
    );
    expect([...baked.levels[0]!.texels]).toEqual([1, 0, 0, 1, 0, 1, 0, 1, 0, 0, 1, 1, 1, 1, 1, 1]);
    const alone = wispen('bake', file('stain.wispen.json', effect), '--size', '2', '--out', out('alone'));
    expect([alone.status, alone.stderr]).toEqual([1, expect.stringMatching(/stain\.png does not come with the effect/)]);
  });
  test('wrong usage and bad input are told apart, and make no folder', () => {
    const dir = out('none');
    const status = (...args: string[]) => wispen('bake', ...args, '--out', dir).status;
    expect([
      status(tube, '--size', '0'),
      status(tube, '--frames', '9-2'),
      status(tube, '--format', 'bmp'),
      status(tube, '--threads', 'x'),
      status(tube, '--output', 'sparkle'),
      wispen('bake', tube).status,
    ]).toEqual([2, 2, 2, 2, 2, 2]);
    expect([status(tube, '--output', 'opacity'), status(join(folder, 'gone.json')), status(tube, '--variant', 'nobody')]).toEqual(
      [1, 1, 1],
    );
    expect(existsSync(dir)).toBe(false);
  });
});
