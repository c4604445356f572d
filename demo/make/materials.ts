/** What Sallowmere Station is made of: a sheet for each surface, baked by Wispen itself. */
import type { Strand } from '../../src/core/effect/schema.js';
import { colour, from, strand } from './field.js';
import type { Surface } from './file.js';
import { picturesOf, type SurfaceSheet } from './texture.js';

const place = strand('p', 'position', {}, { space: 'object' });
const noise = (id: string, scale: number, seed: number, octaves = 5, kind = 'fbm', at = 'p'): Strand =>
  strand(id, 'fractal', { position: from(at), scale, seed, octaves }, { kind });
const window = (id: string, of: string, low: number, high: number) => strand(id, 'harden', { in: from(of), low, high });
const blend = (id: string, a: string, b: string, amount: string) =>
  strand(id, 'mix', { a: from(a), b: from(b), amount: from(amount) });
const ink = (id: string, hex: string) => strand(id, 'colour', { in: colour(hex) });
const times = (id: string, of: string, by: number) => strand(id, 'multiply', { a: from(of), b: by });
const sum = (id: string, a: string, b: string) => strand(id, 'add', { a: from(a), b: from(b) });

/** Layered, weathered stone: what the shelf and the vents are of. */
const stone: SurfaceSheet = {
  ...{ name: 'stone', size: 2.4, metalness: 0, relief: 0.9 },
  strands: [
    place,
    strand('bent', 'warp', { position: from('p'), amount: 0.5, scale: 1.1 }),
    strand('laid', 'multiply', { a: from('bent'), b: [0.9, 3.4, 1] }),
    noise('layers', 1, 3, 6, 'fbm', 'laid'),
    noise('folds', 1.3, 17, 7, 'ridged', 'bent'),
    noise('broad', 0.9, 7, 4),
    noise('pits', 9, 51, 4, 'turbulence'),
    noise('grain', 34, 29, 3),
    times('h1', 'layers', 0.09),
    times('h2', 'folds', 0.06),
    times('h3', 'pits', -0.03),
    times('h4', 'grain', 0.006),
    sum('h12', 'h1', 'h2'),
    sum('h34', 'h3', 'h4'),
    sum('height', 'h12', 'h34'),
    ink('dark', '#2f2d2b'),
    ink('pale', '#8b8478'),
    ink('rusty', '#6d543f'),
    window('light', 'height', -0.03, 0.09),
    window('stain', 'broad', -0.1, 0.35),
    blend('c1', 'dark', 'pale', 'light'),
    times('some', 'stain', 0.5),
    blend('c2', 'c1', 'rusty', 'some'),
    window('fleck', 'grain', -0.4, 0.4),
    strand('lit', 'remap', { in: from('fleck'), fromLow: 0, fromHigh: 1, toLow: 0.72, toHigh: 1.2 }),
    strand('colour', 'multiply', { a: from('c2'), b: from('lit') }),
    strand('rough', 'remap', { in: from('fleck'), fromLow: 0, fromHigh: 1, toLow: 0.95, toHigh: 0.75 }),
  ],
};

/** Fine sediment with a scatter of grit and broken shell. */
const sediment: SurfaceSheet = {
  ...{ name: 'sediment', size: 1.8, metalness: 0, relief: 1 },
  strands: [
    place,
    noise('soft', 2.4, 31, 5),
    noise('grain', 44, 5, 4),
    strand('grit', 'cells', { position: from('p'), scale: 22, seed: 3 }),
    window('stones', 'grit', 0.3, 0.16),
    window('seldom', 'soft', 0.05, 0.35),
    strand('kept', 'multiply', { a: from('stones'), b: from('seldom') }),
    times('h1', 'soft', 0.014),
    times('h2', 'grain', 0.005),
    times('h3', 'kept', 0.009),
    sum('h12', 'h1', 'h2'),
    sum('height', 'h12', 'h3'),
    ink('sand', '#85785f'),
    ink('silt', '#57523f'),
    ink('shell', '#b9ad95'),
    window('wet', 'soft', -0.4, 0.5),
    blend('c1', 'silt', 'sand', 'wet'),
    times('some', 'kept', 0.7),
    blend('c2', 'c1', 'shell', 'some'),
    window('fleck', 'grain', -0.5, 0.5),
    strand('lit', 'remap', { in: from('fleck'), fromLow: 0, fromHigh: 1, toLow: 0.78, toHigh: 1.12 }),
    strand('colour', 'multiply', { a: from('c2'), b: from('lit') }),
    strand('rough', 'remap', { in: from('wet'), fromLow: 0, fromHigh: 1, toLow: 0.72, toHigh: 0.95 }),
  ],
};

/** Painted steel that has stood in salt for years: runs of rust from above, scuffs, faded paint. */
const painted = (name: string, paint: string, faded: string): SurfaceSheet => ({
  ...{ name, size: 2, metalness: 0.1, relief: 0.8 },
  strands: [
    place,
    strand('tall', 'multiply', { a: from('p'), b: [7, 0.45, 1] }),
    noise('runs', 1, 13, 5, 'fbm', 'tall'),
    noise('cloud', 1.5, 21, 5),
    noise('fine', 30, 2, 3),
    noise('scuff', 13, 41, 4),
    noise('where', 1.9, 43, 4),
    ink('paint', paint),
    ink('faded', faded),
    ink('rust', '#5b3a26'),
    ink('steel', '#8b8f92'),
    window('old', 'cloud', -0.3, 0.35),
    blend('c1', 'paint', 'faded', 'old'),
    window('running', 'runs', 0.06, 0.45),
    window('bare', 'where', -0.1, 0.4),
    strand('rusted', 'multiply', { a: from('running'), b: from('bare') }),
    times('partly', 'rusted', 0.75),
    blend('c2', 'c1', 'rust', 'partly'),
    window('chips', 'scuff', 0.24, 0.3),
    strand('scraped', 'multiply', { a: from('chips'), b: from('bare') }),
    times('worn', 'scraped', 0.55),
    blend('c3', 'c2', 'steel', 'worn'),
    window('speck', 'fine', -0.7, 0.7),
    strand('lit', 'remap', { in: from('speck'), fromLow: 0, fromHigh: 1, toLow: 0.9, toHigh: 1.06 }),
    strand('colour', 'multiply', { a: from('c3'), b: from('lit') }),
    times('h1', 'fine', 0.0012),
    times('h2', 'worn', -0.0035),
    times('h3', 'partly', 0.004),
    times('h4', 'cloud', 0.004),
    sum('h12', 'h1', 'h2'),
    sum('h34', 'h3', 'h4'),
    sum('height', 'h12', 'h34'),
    strand('r1', 'remap', { in: from('old'), fromLow: 0, fromHigh: 1, toLow: 0.38, toHigh: 0.62 }),
    sum('r2', 'r1', 'partly'),
    strand('rough', 'clamp', { in: from('r2'), low: 0.2, high: 1 }),
  ],
});

/** Bare dark metal: pipes, ribs, brackets. */
const iron: SurfaceSheet = {
  ...{ name: 'iron', size: 1.2, metalness: 0.75, relief: 0.7 },
  strands: [
    place,
    noise('cloud', 2.4, 9, 5),
    noise('fine', 40, 6, 3),
    ink('dark', '#2c2e31'),
    ink('light', '#5a5d60'),
    ink('rust', '#4b3325'),
    window('old', 'cloud', -0.3, 0.35),
    blend('c1', 'dark', 'light', 'old'),
    noise('spread', 3.1, 19, 5),
    window('eaten', 'spread', 0.05, 0.4),
    times('some', 'eaten', 0.45),
    blend('colour', 'c1', 'rust', 'some'),
    times('h1', 'fine', 0.0016),
    times('h2', 'cloud', 0.004),
    sum('height', 'h1', 'h2'),
    strand('rough', 'remap', { in: from('old'), fromLow: 0, fromHigh: 1, toLow: 0.34, toHigh: 0.6 }),
  ],
};

/** A deck one does not slip on: raised bars, crosswise by turns, worn and wet. */
const deck: SurfaceSheet = {
  ...{ name: 'deck', size: 1, metalness: 0.55, relief: 1 },
  strands: [
    place,
    noise('cloud', 2, 15, 5),
    noise('fine', 34, 4, 3),
    strand('cells', 'multiply', { a: from('p', 'xy'), b: 12 }),
    strand('floor', 'floor', { in: from('cells') }),
    strand('odd', 'add', { a: from('floor', 'x'), b: from('floor', 'y') }),
    strand('tread', 'modulo', { a: from('odd'), b: 2 }),
    strand('fx', 'fract', { in: from('cells', 'x') }),
    strand('fy', 'fract', { in: from('cells', 'y') }),
    strand('cx', 'subtract', { a: from('fx'), b: 0.5 }),
    strand('cy', 'subtract', { a: from('fy'), b: 0.5 }),
    strand('ax', 'abs', { in: from('cx') }),
    strand('ay', 'abs', { in: from('cy') }),
    window('thin', 'ax', 0.13, 0.06),
    window('long', 'ay', 0.42, 0.34),
    window('thin2', 'ay', 0.13, 0.06),
    window('long2', 'ax', 0.42, 0.34),
    strand('up', 'multiply', { a: from('thin'), b: from('long') }),
    strand('over', 'multiply', { a: from('thin2'), b: from('long2') }),
    strand('bars', 'mix', { a: from('up'), b: from('over'), amount: from('tread') }),
    ink('dark', '#26282a'),
    ink('light', '#54585a'),
    ink('worn', '#85898b'),
    window('old', 'cloud', -0.3, 0.3),
    blend('c1', 'dark', 'light', 'old'),
    times('some', 'bars', 0.5),
    blend('colour', 'c1', 'worn', 'some'),
    times('h1', 'bars', 0.006),
    times('h2', 'fine', 0.001),
    sum('height', 'h1', 'h2'),
    strand('rough', 'remap', { in: from('old'), fromLow: 0, fromHigh: 1, toLow: 0.24, toHigh: 0.52 }),
  ],
};

const SHEETS: readonly SurfaceSheet[] = [
  stone,
  sediment,
  painted('hull', '#4a575c', '#6b7676'),
  painted('trim', '#8a4a24', '#a06a42'),
  iron,
  deck,
];

const PLAIN: readonly Surface[] = [
  { name: 'rubber', pictures: null, size: 1, rgb: [0.018, 0.018, 0.02], roughness: 0.7, metalness: 0 },
  { name: 'bright', pictures: null, size: 1, rgb: [0.55, 0.56, 0.57], roughness: 0.28, metalness: 1 },
  { name: 'enamel', pictures: null, size: 1, rgb: [0.42, 0.43, 0.41], roughness: 0.42, metalness: 0 },
  { name: 'glass', pictures: null, size: 1, rgb: [0.02, 0.025, 0.03], roughness: 0.06, metalness: 0 },
  { name: 'water', pictures: null, size: 1, rgb: [0.006, 0.01, 0.014], roughness: 0.34, metalness: 0 },
  { name: 'copper', pictures: null, size: 1, rgb: [0.42, 0.2, 0.1], roughness: 0.36, metalness: 1 },
  { name: 'marker', pictures: null, size: 1, rgb: [0.62, 0.24, 0.03], roughness: 0.5, metalness: 0 },
  { name: 'port', pictures: null, size: 1, rgb: [0.1, 0.07, 0.04], roughness: 0.4, metalness: 0, emission: [0.5, 0.31, 0.13] },
  { name: 'shell', pictures: null, size: 1, rgb: [0.36, 0.28, 0.34], roughness: 0.62, metalness: 0 },
  { name: 'weed', pictures: null, size: 1, rgb: [0.05, 0.075, 0.022], roughness: 0.62, metalness: 0, bothSides: true },
  { name: 'stalk', pictures: null, size: 1, rgb: [0.07, 0.06, 0.022], roughness: 0.6, metalness: 0 },
];

/** Surfaces by their names, their pictures baked. @param wanted those that are asked for; all of them where nothing is said */
export async function surfaces(wanted: ReadonlySet<string> | null = null): Promise<ReadonlyMap<string, Surface>> {
  const made = await Promise.all(
    SHEETS.filter(({ name }) => wanted === null || wanted.has(name)).map(async (sheet): Promise<Surface> => {
      const { name, size } = sheet;
      return { name, size, pictures: await picturesOf(sheet), rgb: [1, 1, 1], roughness: 1, metalness: 1 };
    }),
  );
  return new Map([...made, ...PLAIN].map((s) => [s.name, s]));
}
