import { ASSETS, effectOf } from '../../../tests/fixtures/sheets.js';
import type { Strand } from '../effect/schema.js';
import { lower } from '../lower/lower.js';
import { readCost, savings } from './cost.js';

const effect = effectOf(
  [
    { id: 'u', name: 'U', op: 'uv' },
    { id: 'hum', name: 'Hum', op: 'wave' },
    { id: 'n', name: 'N', op: 'noise', inputs: { position: { from: 'u' }, scale: { value: 4 } } },
    { id: 'f', name: 'F', op: 'fractal', inputs: { position: { from: 'u' }, octaves: { value: 2 } } },
    { id: 's', name: 'S', op: 'multiply', inputs: { a: { from: 'n' }, b: { from: 'f' } } },
    { id: 'lit', name: 'Lit', op: 'multiply', inputs: { a: { from: 's' }, b: { from: 'hum' } } },
    { id: 'p', name: 'P', op: 'power', inputs: { in: { from: 'lit' }, exponent: { value: 2.5 } } },
    { id: 'idle', name: 'Idle', op: 'noise' },
    { id: 'b', name: 'B', op: 'behind' },
    { id: 'glow', name: 'Glow', op: 'add', inputs: { a: { from: 'p' }, b: { from: 'b' } } },
  ],
  { emission: { from: 'glow' } },
  {
    dials: [
      { id: 'd1', strand: 'f', input: 'octaves' },
      { id: 'd2', strand: 'n', input: 'scale' },
    ],
  },
);
const cost = readCost(lower(effect, { build: 'live' }));

test('shares add up to the whole; what is the same all over the surface, and what nobody needs, costs nothing', () => {
  const strands = [...cost.strands.values()];
  expect(strands.reduce((sum, c) => sum + c.share, 0)).toBeCloseTo(1, 9);
  for (const part of ['arithmetic', 'transcendental', 'reads'] as const)
    expect(strands.reduce((sum, c) => sum + c[part], 0)).toBe(cost.total[part]);
  expect(cost.strands.get('hum')).toEqual({ arithmetic: 0, transcendental: 0, reads: 0, share: 0 });
  expect(cost.strands.get('idle')!.share).toBe(0);
});

test('each kind is counted: one power is a transcendental, one look behind is a read', () => {
  expect(cost.strands.get('p')).toMatchObject({ transcendental: expect.any(Number) });
  expect(cost.strands.get('p')!.transcendental).toBeGreaterThanOrEqual(1);
  expect(cost.strands.get('b')).toMatchObject({ reads: 1 });
  expect(cost.strands.get('s')!.arithmetic).toBe(1);
  // Eight octaves are computed while their number may change: eight noises and what joins them.
  const [one, eight] = [cost.strands.get('n')!.arithmetic, cost.strands.get('f')!.arithmetic];
  expect(eight).toBeGreaterThan(8 * (one - 2));
  expect(eight).toBeLessThan(12 * one);
});

test('holding the octaves at 2 saves most of the fractal; holding a scale saves next to nothing', () => {
  const saved = savings(effect);
  const fractal = cost.strands.get('f')!.share;
  expect(saved.get('d1')).toBeGreaterThan(fractal * 0.6);
  expect(saved.get('d1')).toBeLessThan(fractal);
  expect(saved.get('d2')).toBeLessThan(0.02);
});

test('an image that is looked up over the surface is a read, of its strand; one that is the same all over is none', () => {
  const image = (id: string, uv: string) => ({
    id,
    name: id,
    op: 'image',
    inputs: { image: { value: { asset: 'rock' } }, uv: { from: uv } },
  });
  const looked = effectOf(
    [
      { id: 'u', name: 'U', op: 'uv' },
      { id: 't', name: 'T', op: 'time' },
      { id: 'tt', name: 'TT', op: 'join', inputs: { x: { from: 't' }, y: { from: 't' } } },
      image('over', 'u'),
      image('steady', 'tt'),
      { id: 'both', name: 'Both', op: 'add', inputs: { a: { from: 'over' }, b: { from: 'steady' } } },
    ],
    { emission: { from: 'both' } },
    ASSETS,
  );
  const { strands, total } = readCost(lower(looked, { build: 'live' }));
  expect([strands.get('over')!.reads, strands.get('steady')!.reads, total.reads]).toEqual([1, 0, 1]);
  expect(strands.get('over')!.share).toBeGreaterThan(strands.get('both')!.share);
});

test('what is done in a loop counts as often as the loop goes round', () => {
  const of = (strands: object[]) => {
    const sheet = effectOf([{ id: 'u', name: 'U', op: 'uv' }, ...strands] as Strand[], { opacity: { from: 'x' } });
    return readCost(lower(sheet, { build: 'frozen' })).strands.get('x')!;
  };
  const fractal = (octaves: number) =>
    of([{ id: 'x', name: 'X', op: 'fractal', inputs: { position: { from: 'u' }, octaves: { value: octaves } } }]).arithmetic;
  expect(fractal(8) / fractal(2)).toBeGreaterThan(3.5);
});
