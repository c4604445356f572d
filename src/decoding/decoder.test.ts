/** Files that are made to harm: each is refused in words, the process that reads them is ended where it must be, and the next is read. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { constants, crc32, deflateSync } from 'node:zlib';
import { encode } from 'fast-png';
import { randomFrom } from '../../tests/fixtures/sheets.js';
import { writeExr } from '../core/formats/exr.js';
import { Decoder, type DecoderLimits } from './decoder.js';

const DEEP = process.env.WISPEN_DEEP !== undefined;
const MUTANTS = DEEP ? 10_000 : 200;
const folder = mkdtempSync(join(tmpdir(), 'wispen-decoder-'));
let decoder: Decoder;
let files = 0;
const file = (bytes: Uint8Array): string => {
  const path = join(folder, `${++files}.bin`);
  writeFileSync(path, bytes);
  return path;
};
beforeAll(() => void (decoder = new Decoder()));
afterAll(async () => {
  await decoder.close();
  rmSync(folder, { recursive: true });
});

/** Compressed zeros without end: a megabyte of them takes a thousandth, and is repeated. */
function zeros(megabytes: number): Buffer {
  const one = deflateSync(Buffer.alloc(1024 * 1024), { finishFlush: constants.Z_FULL_FLUSH });
  const body = one.subarray(2);
  return Buffer.concat([one.subarray(0, 2), ...Array.from({ length: megabytes }, () => body), Buffer.from([3, 0, 0, 0, 0, 0])]);
}

/** W3C PNG, 5.3: length, name, content, and a sum over name and content. */
function chunk(name: string, content: Uint8Array): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(content.length);
  head.write(name, 4, 'latin1');
  const sum = Buffer.alloc(4);
  sum.writeUInt32BE(crc32(Buffer.concat([head.subarray(4), content])) >>> 0);
  return Buffer.concat([head, content, sum]);
}
function png(side: number, data: Uint8Array, extra: Buffer = Buffer.alloc(0)): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(side, 0);
  head.writeUInt32BE(side, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', head),
    extra,
    chunk('IDAT', data),
    chunk('IEND', new Uint8Array()),
  ]);
}
const pixels = (side: number) => deflateSync(Buffer.alloc(side * (1 + side * 3)));

function glb(json: object, bin = Buffer.alloc(0)): Buffer {
  const text = JSON.stringify(json);
  const description = Buffer.from(text.padEnd(Math.ceil(text.length / 4) * 4));
  const head = Buffer.alloc(20);
  [0x46546c67, 2, 28 + description.length + bin.length, description.length, 0x4e4f534a].forEach((v, k) =>
    head.writeUInt32LE(v, k * 4),
  );
  const second = Buffer.alloc(8);
  [bin.length, 0x004e4942].forEach((v, k) => second.writeUInt32LE(v, k * 4));
  return Buffer.concat([head, description, second, bin]);
}
const mesh = (accessors: object[], bufferViews: object[] = [], bytes = 0) => ({
  asset: { version: '2.0' },
  scene: 0,
  scenes: [{ nodes: [0] }],
  nodes: [{ mesh: 0 }],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  ...(bytes > 0 ? { buffers: [{ byteLength: bytes }], bufferViews } : {}),
  accessors,
});

/** A picture of 16 lines whose one chunk is what is given. */
function exr(compression: number, content: Uint8Array): Buffer {
  const whole = Buffer.from(writeExr({ width: 16, height: 16, channels: { Y: new Float32Array(256) }, depth: 'half' }));
  const at = whole.indexOf('compression\0compression\0') + 24 + 4;
  whole[at] = compression;
  const lines = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256][compression]!;
  const chunks = Math.ceil(16 / lines);
  // The table follows the head's last NUL; there was one chunk.
  const table = whole.length - readChunk(whole) - 8;
  const head = whole.subarray(0, table);
  const parts = Array.from({ length: chunks }, (_, k) => {
    const part = Buffer.alloc(8 + content.length);
    part.writeInt32LE(k * lines, 0);
    part.writeInt32LE(content.length, 4);
    part.set(content, 8);
    return part;
  });
  const places = Buffer.alloc(8 * chunks);
  parts.forEach((p, k) => places.writeBigUInt64LE(BigInt(table + 8 * chunks + k * p.length), k * 8));
  return Buffer.concat([head, places, ...parts]);
}
/** Bytes of the only chunk of a file: it is the last thing in it. */
function readChunk(whole: Buffer): number {
  for (let size = 8; size < whole.length; size++)
    if (whole.readInt32LE(whole.length - size + 4) === size - 8 && whole.readInt32LE(whole.length - size) === 0) return size;
  throw new Error('no chunk');
}

describe('what grows beyond all measure when it is unpacked', () => {
  const wide = (width: number, height: number) => {
    const webp = Buffer.alloc(40);
    webp.write('RIFF', 0, 'latin1');
    webp.writeUInt32LE(32, 4);
    webp.write('WEBPVP8X', 8, 'latin1');
    webp.writeUInt32LE(10, 16);
    webp.writeUIntLE(width - 1, 24, 3);
    webp.writeUIntLE(height - 1, 27, 3);
    return webp;
  };
  /** A chunk of DWA whose reader looks for the end of a channel's name beyond the end of the file, for ever. */
  const endlessName = () => {
    const chunk = Buffer.alloc(400, 'a');
    chunk.fill(0, 0, 88);
    chunk.writeUInt8(2, 0);
    chunk.writeUInt16LE(300, 88);
    return chunk;
  };
  test.each<[string, () => Uint8Array, RegExp]>([
    ['a picture of 4 by 4 with 2 GB of data', () => png(4, zeros(2048)), /unpacks to more than a picture of its size holds/],
    ['a picture whose row is cut short', () => png(64, pixels(32)), /ends too early/],
    ['a WebP of 16000 by 16000', () => wide(16_000, 16_000), /16000 by 16000; at most 8192/],
    ['ZIP lines of 1 GB', () => exr(3, zeros(1024)), /longer than its lines are/],
    ['a rule for a channel whose name does not end', () => exr(9, endlessName()), /rules for channels are broken/],
    [
      'the same where the table of chunks points elsewhere',
      () => {
        const bytes = Buffer.from(exr(9, endlessName()));
        bytes.writeBigUInt64LE(29n, bytes.length - endlessName().length - 16);
        return bytes;
      },
      /rules for channels are broken/,
    ],
    ['short ZIP lines of 400 kB', () => exr(3, deflateSync(Buffer.alloc(400_000))), /unpacks to more/],
    [
      'a mesh of 524 bytes with lists of 2 GB',
      () => glb(mesh([{ componentType: 5126, count: 17_000_000, type: 'VEC3' }])),
      /many times more numbers|no data of its own/,
    ],
    [
      'a mesh whose thousand lists are of the same data',
      () => {
        const bytes = 12 * 100_000;
        const list = { bufferView: 0, componentType: 5126, count: 100_000, type: 'VEC3', min: [0, 0, 0], max: [0, 0, 0] };
        return glb(
          mesh(
            Array.from({ length: 1000 }, () => list),
            [{ buffer: 0, byteLength: bytes }],
            bytes,
          ),
          Buffer.alloc(bytes),
        );
      },
      /many times more numbers/,
    ],
  ])('%s is refused before it is unpacked', async (_, bytes, words) => {
    expect(await decoder.check(file(bytes()))).toMatch(words);
  });
  test('a colour profile of 1 GB is passed over, and so is text: the picture is read', async () => {
    for (const [name, head] of [
      ['iCCP', Buffer.from('p\0\0')],
      ['zTXt', Buffer.from('Note\0\0')],
    ] as const)
      expect(await decoder.check(file(png(4, pixels(4), chunk(name, Buffer.concat([head, zeros(1024)])))))).toBeNull();
  });
});

test('a file that is computed on for too long is given up before its time on the clock is over', async () => {
  const side = 3000;
  const noise = Uint8Array.from({ length: side * side * 3 }, (_, k) => (k * 2654435761) >>> 24);
  const large = file(encode({ width: side, height: side, data: noise, channels: 3, depth: 8 }));
  // On the clock it has twenty times as long, in which it would be read.
  const hasty = new Decoder({ longestMs: 250 });
  expect(await hasty.check(large)).toMatch(/takes longer/);
  await hasty.close();
});

describe('those in line behind one that is ended are read', () => {
  const side = 3000;
  const noise = Uint8Array.from({ length: side * side * 3 }, (_, k) => (k * 2654435761) >>> 24);
  const small = () => file(png(4, pixels(4)));
  test.each<[string, Partial<DecoderLimits>, () => Uint8Array, RegExp]>([
    [
      'for its time',
      { longestMs: 250 },
      () => encode({ width: side, height: side, data: noise, channels: 3, depth: 8 }),
      /takes longer/,
    ],
    [
      'for its memory',
      { memoryMb: 260 },
      () => encode({ width: 4000, height: 4000, data: new Uint8Array(4000 * 4000 * 3), channels: 3, depth: 8 }),
      /more memory than there is/,
    ],
  ])('%s', async (_, limits, bytes, why) => {
    const hasty = new Decoder(limits);
    const large = file(bytes());
    const said = await Promise.all(
      [small(), large, small(), large, small(), file(Buffer.from('none')), small()].map((p) => hasty.check(p)),
    );
    await hasty.close();
    const refused = expect.stringMatching(why) as string;
    expect(said).toEqual([null, refused, null, refused, null, expect.stringMatching(/too short/), null]);
  });
});

test('a process that takes too much memory is ended, and the next file is read', async () => {
  const small = new Decoder({ memoryMb: 260 });
  const side = 4000;
  const large = encode({ width: side, height: side, data: new Uint8Array(side * side * 3), channels: 3, depth: 8 });
  expect(await small.check(file(large))).toMatch(/takes more memory than there is/);
  expect(await small.check(file(png(4, pixels(4))))).toBeNull();
  await small.close();
});

/** Bytes changed, cut out, put in, or said to be longer than they are. */
function damaged(original: Uint8Array, random: () => number): Uint8Array {
  const bytes = Buffer.from(original);
  const below = (n: number) => Math.floor(random() * n);
  for (let k = 1 + below(4); k > 0; k--) {
    const at = below(bytes.length);
    const roll = random();
    if (roll < 0.5) bytes[at] = below(256);
    else if (roll < 0.7 && at + 4 < bytes.length) bytes.writeUInt32LE([0, 0xffffffff, 0x7fffffff, 65535, 1 << 20][below(5)]!, at);
    else bytes.fill(below(256), at, Math.min(bytes.length, at + below(24)));
  }
  return random() < 0.15 ? bytes.subarray(0, below(bytes.length)) : bytes;
}

test(
  `${MUTANTS} damaged pictures and meshes: each is read, or refused with a sentence, and soon`,
  async () => {
    const random = randomFrom(12);
    const noise = (n: number) => Uint8Array.from({ length: n }, () => Math.floor(random() * 256));
    const three = { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] };
    const triangle = Buffer.from(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer);
    const rows = Float32Array.from({ length: 256 }, () => random());
    const originals: Uint8Array[] = [
      writeExr({ width: 16, height: 16, channels: { R: rows, G: rows, B: rows, A: rows }, depth: 'half' }),
      new TextEncoder().encode(
        `#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 2 +X 9\n${'\x02\x02\x00\x09'}${'\x09abcdefghi'.repeat(4)}`.repeat(2),
      ),
      glb(mesh([three], [{ buffer: 0, byteLength: 36 }], 36), triangle),
      png(8, pixels(8)),
      // Of every compression, with what is none of it inside: what a decoder makes of that is its own affair.
      ...[1, 2, 3, 4, 5, 6, 7, 8, 9].map((c) => exr(c, noise(400))),
      // PIZ as it begins: a range of values, a bitmap, a length, a table of codes.
      exr(
        4,
        Uint8Array.from([
          0,
          0,
          3,
          0,
          255,
          255,
          255,
          255,
          80,
          1,
          0,
          0,
          0,
          0,
          0,
          0,
          64,
          0,
          0,
          0,
          0,
          0,
          0,
          0,
          0,
          8,
          0,
          0,
          0,
          0,
          0,
          0,
          ...noise(380),
        ]),
      ),
    ];
    const strict = new Decoder({ longestMs: 10_000, memoryMb: 1024 });
    let read = 0;
    for (let k = 0; k < MUTANTS; k++) {
      const path = file(damaged(originals[k % originals.length]!, random));
      const said = await strict.check(path);
      rmSync(path);
      if (said === null) read++;
      else expect(said).toMatch(/^\p{Lu}.*\.$/su);
      // None may take so long, or so much, that the process has to be ended.
      expect([k, said]).not.toEqual([k, expect.stringMatching(/takes longer|takes more memory/)]);
    }
    expect(read).toBeGreaterThan(0);
    await strict.close();
  },
  DEEP ? 3_600_000 : 120_000,
);
