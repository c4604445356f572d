import { createHash } from 'node:crypto';
import fc from 'fast-check';
import JSZip from 'jszip';
import { effectOf } from '../../../tests/fixtures/sheets.js';
import { stageOf } from '../../../tests/fixtures/stages.js';
import { BUNDLE_LIMITS, assetsOf, readBundle, withFreshIds, writeBundle, type Bundle } from './bundle.js';

const bytesOf = (text: string) => new TextEncoder().encode(text);
const shaOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
const MESH = bytesOf('stands for a mesh: the bundle itself does not look inside');

function bundle(): Bundle {
  const effect = effectOf([{ id: 't', name: 'Time', op: 'time' }], { emission: { from: 't' } }, { id: 'lamp' });
  const stage = stageOf({
    id: 'hall',
    assets: { drum: { sha256: shaOf(MESH), name: 'drum.glb', type: 'model/gltf-binary', size: MESH.length } },
  });
  stage.props[0]!.parts = [{ part: 'all', effect: 'lamp', variant: null, overrides: { d1: 3 } }];
  return {
    effects: [{ ...effect, home: { stage: 'hall', prop: stage.props[0]!.id, viewpoint: stage.viewpoints[0]!.id } }],
    stages: [stage],
    assets: new Map([[shaOf(MESH), MESH]]),
  };
}

const why = (bytes: Uint8Array, limits = BUNDLE_LIMITS): string => {
  const result = readBundle(bytes, limits);
  return result.ok ? 'it was read' : result.why;
};

/** A ZIP written by another library. */
async function zip(files: Record<string, string | Uint8Array>, level = 6): Promise<Uint8Array> {
  const archive = new JSZip();
  for (const [name, content] of Object.entries(files)) archive.file(name, content, { createFolders: false });
  return archive.generateAsync({ type: 'uint8array', compression: 'DEFLATE', compressionOptions: { level } });
}

const texts = async (): Promise<Record<string, string>> => {
  const opened = await JSZip.loadAsync(writeBundle(bundle()));
  return {
    'effects/lamp.wispen.json': await opened.file('effects/lamp.wispen.json')!.async('string'),
    'stages/hall.wispen-stage.json': await opened.file('stages/hall.wispen-stage.json')!.async('string'),
  };
};

describe('what is written', () => {
  test('is read back the same, and the same documents give the same bytes', () => {
    const result = readBundle(writeBundle(bundle()));
    expect(result.ok && result.bundle).toEqual(bundle());
    expect(writeBundle(bundle())).toEqual(writeBundle(bundle()));
    expect(assetsOf(bundle())).toEqual([shaOf(MESH)]);
  });
  test('is opened by another ZIP library, under the names the format promises', async () => {
    const opened = await JSZip.loadAsync(writeBundle(bundle()), { checkCRC32: true });
    expect(Object.keys(opened.files).sort()).toEqual([
      `assets/${shaOf(MESH)}`,
      'effects/lamp.wispen.json',
      'stages/hall.wispen-stage.json',
    ]);
    expect(await opened.file(`assets/${shaOf(MESH)}`)!.async('uint8array')).toEqual(MESH);
  });
  test('takes ids of its own, and every reference follows', () => {
    let next = 0;
    const fresh = withFreshIds(
      bundle(),
      () => `new-${++next}`,
      (name) => `${name} 2`,
    );
    const [effect] = fresh.effects;
    const [stage] = fresh.stages;
    expect([effect!.id, effect!.home!.stage, stage!.id, stage!.name]).toEqual(['new-1', 'new-2', 'new-2', 'Hall 2']);
    expect(stage!.props[0]!.parts[0]).toEqual({ part: 'all', effect: 'new-1', variant: null, overrides: { d1: 3 } });
  });
});

describe('what others wrote', () => {
  test('a ZIP of another library is read, with entries for its folders too', async () => {
    const archive = new JSZip();
    archive.folder('effects');
    for (const [name, text] of Object.entries(await texts())) archive.file(name, text);
    archive.file(`assets/${shaOf(MESH)}`, MESH);
    // Streamed: the sizes stand behind the data instead of before it (PKWARE APPNOTE, 4.3.9).
    const bytes = await archive.generateAsync({ type: 'uint8array', streamFiles: true, compression: 'DEFLATE' });
    const result = readBundle(bytes);
    expect(result.ok && result.bundle).toEqual(bundle());
  });
});

describe('refused with a sentence', () => {
  test('what is no ZIP, and what holds no effect', async () => {
    expect(why(bytesOf('{"format":"wispen-effect"}'))).toContain('a bundle is a ZIP archive');
    expect(why(new Uint8Array())).toContain('a bundle is a ZIP archive');
    const { 'stages/hall.wispen-stage.json': stage } = await texts();
    expect(why(await zip({ 'stages/hall.wispen-stage.json': stage! }))).toBe('It holds no effect.');
  });
  test.each([
    '../../etc/passwd',
    '/effects/lamp.wispen.json',
    'effects/../../lamp.wispen.json',
    'effects\\lamp.wispen.json',
    'effects/sub/lamp.wispen.json',
    'effects/lamp.wispen.json\u0000.png',
    'stages/hall.wispen.json',
    'assets/0123',
    'run-me.js',
  ])('the name %j', async (name) => {
    expect(why(await zip({ ...(await texts()), [name]: 'x' }))).toContain('has no place in a bundle');
  });
  test('a file that is not what its name says, is no JSON, no effect, or of another version', async () => {
    const good = await texts();
    expect(why(await zip({ ...good, [`assets/${'0'.repeat(64)}`]: MESH }))).toContain('the SHA-256 differs');
    expect(why(await zip({ 'effects/lamp.wispen.json': 'not json' }))).toContain('is not JSON');
    expect(why(await zip({ 'effects/lamp.wispen.json': new Uint8Array([0xff, 0xfe, 0x00]) }))).toContain('is not JSON');
    expect(why(await zip({ 'effects/lamp.wispen.json': good['stages/hall.wispen-stage.json']! }))).toContain('"wispen-effect"');
    const later = good['effects/lamp.wispen.json']!.replace('"version": 1', '"version": 9');
    expect(why(await zip({ 'effects/lamp.wispen.json': later }))).toContain('of version 9');
    expect(why(await zip({ ...good, 'effects/other.wispen.json': good['effects/lamp.wispen.json']! }))).toContain('the same id');
  });
  test('archives that swell: one file beyond its limit, and many that are too much together', async () => {
    // The limits stand at 64 MB a file and 256 MB in all; here they are smaller, so that the archives need not be large.
    expect(BUNDLE_LIMITS).toEqual({ files: 512, unpacked: 256 * 2 ** 20, document: 4 * 2 ** 20, asset: 64 * 2 ** 20 });
    const limits = { ...BUNDLE_LIMITS, asset: 2 ** 20, unpacked: 4 * 2 ** 20 };
    const nothing = new Uint8Array(3 * 2 ** 20);
    const one = await zip({ ...(await texts()), [`assets/${'a'.repeat(64)}`]: nothing }, 9);
    expect(one.length).toBeLessThan(8000);
    expect(why(one, limits)).toContain('is larger than 1 MB');
    const many = Object.fromEntries(
      ['b', 'c', 'd', 'e', 'f'].map((c) => [`assets/${c.repeat(64)}`, nothing.subarray(0, 2 ** 20)]),
    );
    expect(why(await zip(many, 9), limits)).toContain('larger than 4 MB when unpacked');
    const crowd = Object.fromEntries(Array.from({ length: 513 }, (_, k) => [`effects/e${k}.wispen.json`, '{}']));
    expect(why(await zip(crowd))).toContain('more than 512 files');
  });
  test('what was cut short anywhere, or added to', () => {
    const whole = writeBundle(bundle());
    for (let length = 2; length < whole.length; length += 7) expect(why(whole.subarray(0, length))).not.toBe('it was read');
    const longer = new Uint8Array(whole.length + 9);
    longer.set(whole);
    expect(why(longer)).toContain('damaged');
  });
  test('bytes changed at random never throw, and never give other assets than their names say', () => {
    const whole = writeBundle(bundle());
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 8 }), (changes) => {
        const bytes = whole.slice();
        for (const [at, value] of changes) bytes[at] = value;
        const result = readBundle(bytes);
        if (result.ok) for (const [sha, content] of result.bundle.assets) expect(shaOf(content)).toBe(sha);
        else expect(result.why).toMatch(/^[A-Z].*\.$/);
      }),
      { seed: 7, numRuns: 150 },
    );
  });
});
