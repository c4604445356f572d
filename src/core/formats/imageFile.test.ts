import { encode } from 'fast-png';
import { PNG } from 'pngjs';
import sharp from 'sharp';
import { DataTexture, FloatType, HalfFloatType, RGBAFormat } from 'three';
import { EXRExporter } from 'three/examples/jsm/exporters/EXRExporter.js';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { randomFrom } from '../../../tests/fixtures/sheets.js';
import { lookUp, pictureOf, toSrgb } from '../base/picture.js';
import { toHalf, writeExr } from './exr.js';
import { imageTypeOf, readImage, type DecodeBitmap } from './imageFile.js';

const bitmap: DecodeBitmap = async (bytes) => {
  const { data, info } = await sharp(bytes).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, data };
};
const random = randomFrom(8);
const [W, H] = [13, 9];
const rgba = Uint8Array.from({ length: W * H * 4 }, (_, k) => (k % 4 === 3 ? 255 : Math.floor(random() * 256)));
const own = (bytes: Uint8Array) => new Uint8Array(bytes);
const read = (bytes: Uint8Array, colour: 'srgb' | 'data' | 'linear' = 'data') => readImage(own(bytes), colour, bitmap);

describe('reading, against files of independent encoders', () => {
  test('PNG of pngjs: 8 bits, every colour as it is, and as sRGB', async () => {
    const png = new PNG({ width: W, height: H });
    png.data = Buffer.from(rgba);
    const bytes = PNG.sync.write(png);
    expect(imageTypeOf(bytes)).toBe('image/png');
    const data = (await read(bytes)).levels[0]!;
    expect([data.width, data.height]).toEqual([W, H]);
    data.texels.forEach((t, k) => expect(t).toBeCloseTo(rgba[k]! / 255, 6));
    // IEC 61966-2-1: a coded .5 is .21404114 of the light.
    const linear = (await read(bytes, 'srgb')).levels[0]!;
    linear.texels.forEach((t, k) => expect(k % 4 === 3 ? t * 255 : toSrgb(t) * 255).toBeCloseTo(rgba[k]!, 3));
  });
  test('PNG of sharp: 16 bits, grey, grey with alpha, palettes', async () => {
    const deep = Uint16Array.from({ length: 6 }, (_, k) => k * 13107);
    const sixteen = encode({ width: 2, height: 1, data: deep, depth: 16, channels: 3 });
    const { texels } = (await read(sixteen)).levels[0]!;
    expect([...texels].filter((_, k) => k % 4 < 3)).toEqual([...deep].map((v) => Math.fround(v / 65535)));
    const palette = await sharp(rgba, { raw: { width: W, height: H, channels: 4 } })
      .png({ palette: true, colours: 16 })
      .toBuffer();
    const wanted = await sharp(palette).ensureAlpha().raw().toBuffer();
    (await read(palette)).levels[0]!.texels.forEach((t, k) => expect(t * 255).toBeCloseTo(wanted[k]!, 3));
    const grey = await sharp(rgba, { raw: { width: W, height: H, channels: 4 } })
      .removeAlpha()
      .toColourspace('b-w')
      .png()
      .toBuffer();
    const greys = await sharp(grey).toColourspace('b-w').raw().toBuffer({ resolveWithObject: true });
    const level = (await read(grey)).levels[0]!;
    for (let k = 0; k < W * H; k++) expect(level.texels[k * 4 + 1]! * 255).toBeCloseTo(greys.data[k * greys.info.channels]!, 3);
  });
  test('PNG of sharp in seven passes (W3C PNG, 8.1): the same as in one, at sides that fill none of them', async () => {
    for (const [w, h] of [
      [13, 9],
      [1, 1],
      [4, 3],
      [8, 1],
    ] as const) {
      const raw = { raw: { width: w, height: h, channels: 4 as const } };
      const pixels = rgba.subarray(0, w * h * 4);
      const [woven, plain] = await Promise.all(
        [true, false].map((progressive) => sharp(pixels, raw).png({ progressive }).toBuffer()),
      );
      expect(woven![28]).toBe(1);
      expect((await read(woven!)).levels[0]).toEqual((await read(plain!)).levels[0]);
      await expect(read(woven!.subarray(0, woven!.length - 20))).rejects.toThrow(/ends too early/);
    }
  });
  test.each(['jpeg', 'webp'] as const)('%s of sharp', async (format) => {
    const bytes = await sharp(rgba, { raw: { width: W, height: H, channels: 4 } })
      .toFormat(format)
      .toBuffer();
    const wanted = await sharp(bytes).ensureAlpha().raw().toBuffer();
    const { texels } = (await read(bytes)).levels[0]!;
    texels.forEach((t, k) => expect(t * 255).toBeCloseTo(wanted[k]!, 3));
  });
  test('OpenEXR of three.js, halves and full floats, far above 1', async () => {
    const values = Float32Array.from({ length: W * H * 4 }, (_, k) => (k % 4 === 3 ? 1 : random() * 40 - 2));
    const texture = new DataTexture(values, W, H, RGBAFormat, FloatType);
    for (const type of [FloatType, HalfFloatType] as const) {
      const bytes = await new EXRExporter().parse(texture, { type });
      const { texels } = (await read(bytes)).levels[0]!;
      // Its exporter takes the first row for the bottom one.
      for (let y = 0; y < H; y++)
        for (let x = 0; x < W * 4; x++) {
          const wanted = values[(H - 1 - y) * W * 4 + x]!;
          expect(Math.abs(texels[y * W * 4 + x]! - wanted)).toBeLessThan(type === FloatType ? 1e-6 : 0.04);
        }
    }
  });
  test('Radiance: run-length coded and plain rows, as three.js’s loader reads them', async () => {
    const row = [10, 10, 10, 10, 10, 10, 200, 3, 5, 9].map((v) => v);
    const lines: number[] = [];
    for (let y = 0; y < 3; y++) {
      lines.push(2, 2, 0, 10);
      for (let c = 0; c < 4; c++) {
        const plane = c === 3 ? Array<number>(10).fill(129 + y) : row.map((v) => (v * (c + 1)) % 256);
        if (c === 3) lines.push(138, 129 + y);
        else lines.push(10, ...plane);
      }
    }
    const head = new TextEncoder().encode('#?RADIANCE\n# made here\nFORMAT=32-bit_rle_rgbe\n\n-Y 3 +X 10\n');
    const bytes = Uint8Array.from([...head, ...lines]);
    const loader = new HDRLoader();
    loader.setDataType(FloatType);
    const judge = loader.parse(bytes.slice().buffer) as unknown as { width: number; height: number; data: Float32Array };
    const { texels, width, height } = (await read(bytes, 'linear')).levels[0]!;
    expect([width, height]).toEqual([10, 3]);
    // It divides mantissas by 255; Ward's picture divides them by 256.
    texels.forEach((t, k) => expect(t).toBeCloseTo(k % 4 === 3 ? 1 : (judge.data[k]! * 255) / 256, 5));
  });
  test('Radiance: rows that are not coded, too narrow for it or written plain', async () => {
    for (const width of [5, 10]) {
      // Shared exponents of 128 and above: mantissas of 256ths, and twice that a step (Ward 1991).
      const texel = (k: number) => [(k * 37) % 200, (k * 53 + 9) % 200, (k * 11 + 100) % 200, 128 + (k % 3)];
      const all = Array.from({ length: width * 2 }, (_, k) => texel(k));
      const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 2 +X ${width}\n`);
      const { texels, ...size } = (await read(Uint8Array.from([...head, ...all.flat()]), 'linear')).levels[0]!;
      expect(size).toMatchObject({ width, height: 2 });
      all.forEach(([r, g, b, e], k) =>
        [r!, g!, b!].forEach((m, lane) => expect(texels[k * 4 + lane]).toBeCloseTo((m / 256) * 2 ** (e! - 128), 5)),
      );
    }
  });
});

test('what is no picture, or a broken one, is refused in words, and nothing else is thrown', async () => {
  const png = new PNG({ width: W, height: H });
  png.data = Buffer.from(rgba);
  const whole = PNG.sync.write(png);
  const bomb = new Uint8Array(whole);
  new DataView(bomb.buffer).setUint32(16, 60000);
  for (const [bytes, says] of [
    [new Uint8Array([1, 2, 3]), /not a PNG, JPEG, WebP, EXR or HDR/],
    [new Uint8Array(), /not a PNG/],
    [bomb, /60000 by 9; at most 8192/],
    [new TextEncoder().encode('#?RADIANCE\n\n-Y 4 +X 4\n'), /ends too early/],
    [new TextEncoder().encode('#?RADIANCE\n\n-Y 99999 +X 4\n'), /at most 8192/],
    [new TextEncoder().encode('#?RADIANCE\n\n+X 4 -Y 4\n'), /rows do not run/],
  ] as const)
    await expect(read(bytes)).rejects.toThrow(says);
  const files = [
    whole,
    await sharp(rgba, { raw: { width: W, height: H, channels: 4 } })
      .webp()
      .toBuffer(),
    writeExr({ width: 4, height: 4, channels: { Y: new Float32Array(16) }, depth: 'half' }),
  ];
  for (const file of files)
    for (let cut = 4; cut < file.length; cut += 7) {
      const kind = await read(file.subarray(0, cut)).then(
        () => 'read',
        (error: unknown) => (error as Error).constructor.name,
      );
      expect(['read', 'BadImage']).toContain(kind);
    }
});

describe('writing OpenEXR', () => {
  test('what is written, three.js’s loader and our reader read back', async () => {
    const channel = () => Float32Array.from({ length: W * 37 }, () => random() * 100 - 5);
    const channels = { R: channel(), G: channel(), B: channel(), A: channel() };
    for (const depth of ['half', 'float'] as const) {
      const file = writeExr({ width: W, height: 37, channels, depth });
      const judge = new EXRLoader().setDataType(FloatType).parse(file.slice().buffer) as unknown as {
        data: Float32Array;
        width: number;
        height: number;
      };
      const { texels } = (await read(file, 'linear')).levels[0]!;
      for (let y = 0; y < 37; y++)
        for (let x = 0; x < W; x++)
          'RGBA'.split('').forEach((name, c) => {
            const wanted = channels[name as 'R'][y * W + x]!;
            const near = (v: number) =>
              expect(Math.abs(v - wanted)).toBeLessThanOrEqual(depth === 'float' ? 0 : Math.abs(wanted) / 1024 + 1e-7);
            near(judge.data[((36 - y) * W + x) * 4 + c]!);
            near(texels[(y * W + x) * 4 + c]!);
          });
    }
  });
  test('halves are the nearest, ties to even: every half, and the middle between each two', () => {
    // IEEE 754 binary16 decoded by its definition.
    const decode = (h: number) => {
      const [e, m] = [(h >> 10) & 31, h & 1023];
      return e === 0 ? m * 2 ** -24 : e === 31 ? Infinity : (1 + m / 1024) * 2 ** (e - 15);
    };
    for (let h = 0; h < 0x7c00; h++) {
      expect(toHalf(decode(h))).toBe(h);
      const middle = (decode(h) + (h === 0x7bff ? 65536 : decode(h + 1))) / 2;
      expect(toHalf(middle)).toBe(h % 2 === 0 ? h : h + 1);
      if (h % 97 === 0) expect(toHalf(-decode(h))).toBe(h | 0x8000);
    }
    expect([toHalf(Infinity), toHalf(-1e9), toHalf(NaN) & 0x7fff]).toEqual([0x7c00, 0xfc00, 0x7e00]);
  });
});

describe('looking up', () => {
  const picture = pictureOf(
    4,
    4,
    Float32Array.from({ length: 64 }, (_, k) => (k % 4 === 3 ? 1 : k)),
  );
  const at = (
    u: number,
    v: number,
    level = 0,
    wrap: 'repeat' | 'mirror' | 'clamp' = 'repeat',
    filter: 'smooth' | 'nearest' = 'smooth',
  ) => {
    const out = [0, 0, 0, 0];
    lookUp(picture, u, v, level, wrap, filter, out);
    return out;
  };
  test('row 0 is on top; a texel’s middle is the texel; between two, their mean', () => {
    expect(at(0.125, 0.875)[0]).toBe(0);
    expect(at(0.375, 0.875)[0]).toBe(4);
    expect(at(0.125, 0.125)[0]).toBe(48);
    expect(at(0.25, 0.875)[0]).toBe(2);
    expect(at(0.25, 0.99, 0, 'clamp', 'nearest')[0]).toBe(4);
  });
  test('repeats, is mirrored, or holds its edge', () => {
    expect(at(1.125, 0.875)).toEqual(at(0.125, 0.875));
    expect(at(-0.875, 2.875)).toEqual(at(0.125, 0.875));
    expect(at(1.125, 0.875, 0, 'mirror')).toEqual(at(0.875, 0.875, 0, 'mirror'));
    expect(at(7, 0.875, 0, 'clamp')[0]).toBe(12);
  });
  test('each level is the mean of the one before, also where sides are odd', () => {
    expect(at(0.25, 0.75, 1)[0]).toBe((0 + 4 + 16 + 20) / 4);
    const mean = Array.from({ length: 16 }, (_, k) => k * 4).reduce((s, v) => s + v, 0) / 16;
    expect(at(0.3, 0.9, 2)[0]).toBeCloseTo(mean, 4);
    expect(at(0.3, 0.9, 1.5)[0]).toBeCloseTo((at(0.3, 0.9, 1)[0]! + mean) / 2, 4);
    const odd = pictureOf(
      5,
      3,
      Float32Array.from({ length: 60 }, (_, k) => (k >> 2) % 5),
    );
    expect(odd.levels.map((l) => [l.width, l.height])).toEqual([
      [5, 3],
      [2, 1],
      [1, 1],
    ]);
    expect(odd.levels[2]!.texels[0]).toBeCloseTo(2, 5);
  });
});
