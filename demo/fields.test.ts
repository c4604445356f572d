/** The starters of fields, embers, fades and holograms by their numbers: each dial does what its name says. */
import type { Effect } from '../src/core/effect/schema.js';
import { inVariant, outputAt, starter, turned } from '../tests/fixtures/starters.js';

const mean = (values: Float32Array) => values.reduce((sum, v) => sum + v / values.length, 0);
/** ITU-R BT.709. */
const luminance = ([r, g, b]: Float32Array[]) => r!.map((v, k) => 0.2126 * v + 0.7152 * g![k]! + 0.0722 * b![k]!);
/** Of a ball that is seen from far away, along a radius of its picture: how it faces from its middle to its rim. */
const RADIUS = Array.from({ length: 4000 }, (_, k) => (k + 0.5) / 4000);
const BALL = {
  normal: RADIUS.map((r) => [r, 0, Math.sqrt(1 - r * r)]),
  view: [[0, 0, 1]],
  position: RADIUS.map((r) => [r, 0, Math.sqrt(1 - r * r)]),
};

describe('Pressure halo', () => {
  const even = turned(starter('pressure-halo'), { uneven: 0 });
  const rim = (effect: Effect) => outputAt(effect, 'rim', BALL, RADIUS.length)[0]!;
  /** How much of the radius is at half of the rim's height and more. */
  const half = (effect: Effect) => rim(effect).filter((v) => v >= 0.5).length / RADIUS.length;

  test('its exponent goes from 12 to 0.8 as its width goes from 0 to 1', () => {
    for (const [width, exponent] of [
      [0, 12],
      [0.5, 6.4],
      [1, 0.8],
    ] as const)
      rim(turned(even, { width })).forEach((v, k) =>
        expect(v).toBeCloseTo((1 - Math.sqrt(1 - RADIUS[k]! ** 2)) ** exponent, 3),
      );
  });

  test.each([0.3, 0.5, 0.6])('a width of %f and half as much again: wider by a third and more at half of its height', (width) => {
    expect(half(turned(even, { width: width * 1.5 })) / half(turned(even, { width }))).toBeGreaterThan(4 / 3);
    // More of the picture is lit.
    const lit = (w: number) => luminance(outputAt(turned(even, { width: w }), 'emission', BALL, RADIUS.length)).filter((v) => v > 0.2).length;
    expect(lit(width * 1.5)).toBeGreaterThan(lit(width));
  });

  test('base colour and emission are the rim in its hue; opacity is the rim by its solidity, from 0 to 1', () => {
    const at = rim(even);
    const [base, glow] = ['baseColour', 'emission'].map((of) => outputAt(even, of, BALL, RADIUS.length));
    [0.12, 0.42, 1].forEach((hue, c) =>
      at.forEach((v, k) => {
        expect(base![c]![k]).toBeCloseTo(hue * v, 5);
        expect(glow![c]![k]).toBeCloseTo(5 * hue * v, 4);
      }),
    );
    const cover = outputAt(turned(even, { solid: 2.2 }), 'opacity', BALL, RADIUS.length)[0]!;
    at.forEach((v, k) => expect(cover[k]).toBeCloseTo(Math.min(1, 2.2 * v), 5));
  });
});

describe('Sampling dome', () => {
  const dome = starter('sampling-dome');
  const COUNT = 2000;
  const points = {
    uv: Array.from({ length: COUNT }, (_, k) => [(k * 0.618034) % 1, ((k * 0.7548777) % 1) * 0.9]),
    depthGap: Array.from({ length: COUNT }, (_, k) => [(k % 40) * 0.005]),
    normal: Array.from({ length: COUNT }, (_, k) => [Math.sqrt(1 - ((k % 50) / 50) ** 2), 0, (k % 50) / 50]),
    view: [[0, 0, 1]],
  };
  const of = (effect: Effect, strand: string) => outputAt(effect, strand, points, COUNT)[0]!;

  test('its line is smoothstep(0, 1, (1 - (gap - offset)) x strength)', () => {
    for (const [offset, strength] of [
      [-0.86, 6.5],
      [-0.7, 3],
    ] as const)
      of(turned(dome, { offset, strength }), 'line').forEach((v, k) => {
        const x = Math.max(0, Math.min(1, (1 - (points.depthGap[k]![0]! - offset)) * strength));
        expect(v).toBeCloseTo(x * x * (3 - 2 * x), 4);
      });
  });

  test('the pattern taken out before the masks are joined is not the pattern taken out of both joined', () => {
    const [line, rim, pattern, cover] = ['line', 'rim', 'pattern', 'cover'].map((s) => of(dome, s)) as [Float32Array, Float32Array, Float32Array, Float32Array];
    let [differs, deepest] = [0, 0];
    cover.forEach((v, k) => {
      const before = Math.max(rim[k]! - 0.5 * pattern[k]!, line[k]! - 0.22 * pattern[k]!);
      expect(v).toBeCloseTo(Math.max(0.03, Math.min(1, before)), 5);
      const after = Math.max(0.03, Math.min(1, Math.max(rim[k]!, line[k]!) - 0.5 * pattern[k]!));
      if (v - after > 0.01) differs++;
      deepest = Math.max(deepest, v - after);
    });
    // Where the line is the brighter of the two it keeps 0.28 of the pattern's depth more.
    expect(deepest).toBeCloseTo(0.28, 2);
    expect(differs / COUNT).toBeGreaterThan(0.02);
  });

  test('tiling makes more tiles; moved through the ground, the line moves with what it touches', () => {
    const edges = (tiling: number) => {
      const row = { uv: Array.from({ length: 4000 }, (_, k) => [(k % 800) / 800, 0.07 + 0.173 * Math.floor(k / 800)]) };
      const line = outputAt(turned(dome, { tiling }), 'pattern', row, 4000)[0]!;
      return line.filter((v, k) => k > 0 && v > 0.5 !== line[k - 1]! > 0.5).length;
    };
    expect(edges(14) / edges(7)).toBeGreaterThan(1.6);
    // 3 cm deeper, every gap is 3 cm less: the line is where the gap is as before.
    const deeper = { depthGap: points.depthGap.map(([g]) => [g! - 0.03]) };
    const before = of(dome, 'line');
    outputAt(dome, 'line', deeper, COUNT)[0]!.forEach((v, k) => {
      if (points.depthGap[k]![0]! >= 0.03) expect(v).toBeCloseTo(before[k - 6]!, 3);
    });
  });
});

describe('Moon-pool membrane', () => {
  const membrane = starter('moon-pool-membrane');
  const COUNT = 1600;
  const across = Array.from({ length: COUNT }, (_, k) => [((k % 400) / 400) * 3 - 1.5, 0.4, Math.floor(k / 400) * 0.21 - 0.4]);
  const facing = { normal: [[0, 0, 1]], view: [[0, 0, 1]], depthGap: [[5]] };

  test('the sign of the stripe’s speed is its direction', () => {
    const middle = (sweep: number, time: number) => {
      const [stripe] = outputAt(turned(membrane, { sweep }), 'stripe', { position: across, time: [[time]] }, COUNT);
      const weight = stripe!.reduce((sum, v) => sum + v, 0);
      return stripe!.reduce((sum, v, k) => sum + (v * across[k]![0]!) / weight, 0);
    };
    expect(middle(0.2, 2.5)).toBeGreaterThan(middle(0.2, 2) + 0.2);
    expect(middle(-0.2, 2.5)).toBeLessThan(middle(-0.2, 2) - 0.2);
    expect(middle(0.2, 2.5) - middle(0.2, 2)).toBeCloseTo(3.2 * 0.1, 2);
  });

  test('opacity is the greater of rim and 1 - gap / fade, and of the net where the stripe is', () => {
    const touching = { ...facing, depthGap: across.map((_, k) => [(k % 100) * 0.004]) };
    const cover = outputAt(turned(membrane, { width: 0, soft: 0 }), 'opacity', { ...touching, position: [[-1.5, 0, 0]] }, COUNT)[0]!;
    cover.forEach((v, k) => {
      const gap = touching.depthGap[k]![0]!;
      if (gap < 0.16) expect(v).toBeGreaterThanOrEqual(1 - gap / 0.16 - 1e-5);
    });
    const seen = (width: number) => mean(outputAt(turned(membrane, { width }), 'opacity', { ...facing, position: across, time: [[2.3]] }, COUNT)[0]!);
    expect(seen(0.4)).toBeGreaterThan(1.5 * seen(0.1));
  });

  test('light hues pass the bloom threshold with nearly half of what is seen, dark ones with none of it', () => {
    const share = (variant: string) => {
      const effect = inVariant(membrane, variant);
      const [light, cover] = [outputAt(effect, 'emission', BALL, RADIUS.length), outputAt(effect, 'opacity', { ...BALL, depthGap: [[5]] }, RADIUS.length)[0]!];
      const bright = luminance(light).map((v, k) => v * cover[k]!);
      return bright.filter((v) => v > 1).length / bright.filter((_, k) => cover[k]! > 0.3).length;
    };
    expect(share('Light hues')).toBeGreaterThan(0.4);
    expect(share('Dark hues')).toBe(0);
  });
});

describe('Chart hologram', () => {
  const chart = starter('chart-hologram');
  const at = (effect: Effect, pixels: number, of = 'opacity', tilt = 0) =>
    outputAt(effect, of, { edgePixelsQuad: [[pixels]], normal: [[Math.sin(tilt), 0, Math.cos(tilt)]], view: [[0, 0, 1]] }, 1).map((p) => p[0]!);

  test('on a line it is there whichever way it faces, off it only where the ground turns away', () => {
    for (const tilt of [0, 0.7, 1.3]) expect(at(chart, 0, 'opacity', tilt)[0]).toBeCloseTo(1, 5);
    expect(at(chart, 3)[0]).toBe(0);
    expect(at(chart, 3, 'opacity', 1.5)[0]).toBeGreaterThan(0.2);
  });

  test('a line is a pixel wide, and as wide as its dial says', () => {
    const wide = (line: number) => {
      const effect = turned(chart, { line, hard: 0 });
      return 2 * Array.from({ length: 500 }, (_, k) => at(effect, k * 0.01)[0]! * 0.01).reduce((sum, v) => sum + v, 0);
    };
    expect(wide(0.9)).toBeGreaterThan(0.9);
    expect(wide(0.9)).toBeLessThan(1.7);
    expect(wide(3) - wide(1)).toBeCloseTo(2, 1);
  });

  test('twice the strength is twice the light', () => {
    const [one, two] = [1, 2].map((strength) => at(turned(chart, { strength }), 0, 'emission')[1]!);
    expect(two! / one!).toBeCloseTo(2, 5);
  });
});

describe('Vent embers', () => {
  const embers = starter('vent-embers');
  const COUNT = 6000;
  const places = Array.from({ length: COUNT }, (_, k) => {
    const turn = (k % 100) * 0.0628;
    return [0.2 * Math.cos(turn), -0.5 + Math.floor(k / 100) * 0.012, 0.2 * Math.sin(turn)];
  });
  const mask = (effect: Effect, more = {}) => outputAt(effect, 'opacity', { position: places, propRandom: [[0.3]], ...more }, COUNT)[0]!;

  test('only specks are left, fewer the higher the level, and the farther up', () => {
    const share = (values: Float32Array) => values.filter((v) => v > 0.5).length / values.length;
    expect(share(mask(embers))).toBeGreaterThan(0.005);
    expect(share(mask(embers))).toBeLessThan(0.2);
    expect(share(mask(turned(embers, { few: 0.35 })))).toBeLessThan(0.6 * share(mask(embers)));
    const alike = turned(embers, { few: 0.1, fewend: 0.6 });
    const [low, high] = [mask(alike).slice(0, COUNT / 2), mask(alike).slice(COUNT / 2)];
    expect(share(high)).toBeLessThan(0.8 * share(low));
  });

  test('they rise as fast as the dial says: what is here now is 5.5 cm higher a tenth of a second later', () => {
    const grain = (more: object) => outputAt(embers, 'grain', { position: places, ...more }, COUNT)[0]!;
    const now = grain({ time: [[2]] });
    const later = grain({ time: [[2.1]], position: places.map(([x, y, z]) => [x!, y! + 0.055, z!]) });
    later.forEach((v, k) => expect(Math.abs(v - now[k]!)).toBeLessThan(2e-3));
  });

  test('its light is hot: a component of its hue is above 1, its base is dark, and shells differ', () => {
    const glow = outputAt(embers, 'hot', {}, 1).map((p) => p[0]!);
    expect(glow[0]).toBeGreaterThan(11);
    expect(Math.max(...outputAt(embers, 'baseColour', {}, 1).map((p) => p[0]!))).toBeLessThan(0.02);
    expect(mask(embers, { propRandom: [[0.7]] })).not.toEqual(mask(embers));
    expect(inVariant(embers, 'Eruption').finish.alphaMode).toBe('add');
    expect(embers.finish.alphaMode).toBe('dither');
  });
});

describe('Specimen fade', () => {
  const fade = { ...starter('specimen-fade'), cues: [] };
  const COUNT = 5000;
  const places = Array.from({ length: COUNT }, (_, k) => {
    const z = 1 - (2 * (k + 0.5)) / COUNT;
    const r = Math.sqrt(1 - z * z);
    return [0.3 * r * Math.cos(k * 2.399963), 0.3 * z, 0.3 * r * Math.sin(k * 2.399963)];
  });
  const of = (effect: Effect, strand: string) => outputAt(effect, strand, { position: places }, COUNT)[0]!;
  const STEPS = Array.from({ length: 21 }, (_, k) => k / 20);

  test('its area falls from whole to none, and never rises', () => {
    const areas = STEPS.map((gone) => mean(of(turned(fade, { gone }), 'opacity')));
    expect(areas[0]).toBeCloseTo(1, 6);
    expect(areas.at(-1)).toBe(0);
    for (let k = 1; k < areas.length; k++) expect(areas[k]).toBeLessThanOrEqual(areas[k - 1]! + 1e-6);
    expect(Math.max(...areas.slice(1).map((a, k) => areas[k]! - a))).toBeLessThan(0.2);
  });

  test('its rim lies along the edge, wherever that has come to, and is nowhere when it is whole or gone', () => {
    const order = of(fade, 'order');
    const light = (gone: number) => outputAt(turned(fade, { gone }), 'emission', { position: places }, COUNT)[2]!;
    for (const gone of [0, 1]) expect(Math.max(...light(gone))).toBe(0);
    for (const gone of [0.2, 0.45, 0.7]) {
      const lit = [...light(gone)].flatMap((v, k) => (v > 0.01 ? [order[k]!] : []));
      expect(lit.length).toBeGreaterThan(40);
      expect(Math.max(...lit) - Math.min(...lit)).toBeLessThan(2.5 * 0.07);
      expect(Math.abs((Math.max(...lit) + Math.min(...lit)) / 2 - gone)).toBeLessThan(0.12);
    }
  });

  test('its cue takes it from whole to gone and back within its loop', () => {
    const cued = starter('specimen-fade');
    const at = (time: number) => mean(outputAt(cued, 'opacity', { position: places, time: [[time]] }, COUNT)[0]!);
    expect([at(0.2), at(3.6), at(5.9)].map((v) => Number(v.toFixed(3)))).toEqual([1, 0, 1]);
    expect(at(2)).toBeGreaterThan(0.1);
    expect(at(2)).toBeLessThan(0.95);
  });
});
