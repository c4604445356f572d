import { OPERATORS } from '../../../core/operators/catalogue.js';

// Node has no ImageData; what the previews need of it is this.
globalThis.ImageData ??= class {
  readonly data: Uint8ClampedArray;
  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.data = new Uint8ClampedArray(width * height * 4);
  }
} as unknown as typeof ImageData;
const { PREVIEW_HEIGHT, PREVIEW_WIDTH, previewOf } = await import('./preview.js');

/** Operators whose value is one for the whole picture: their preview is plain. */
const PLAIN = new Set(['time', 'number', 'vector', 'colour', 'view', 'shared', 'propRandom', 'image', 'age', 'motif']);

/** Operators that jump: theirs has a few tones, and both ends of the scale among them. */
const FEW = new Set(['sign', 'floor', 'ceil', 'round', 'quantise', 'step', 'compare', 'facing', 'beat', 'checker', 'grid']);

test.each(OPERATORS.map((o) => o.id))('%s has a picture that shows what it does', (id) => {
  const { data } = previewOf(id);
  expect(data).toHaveLength(PREVIEW_WIDTH * PREVIEW_HEIGHT * 4);
  const seen = new Map<number, number>();
  let low = 255;
  let high = 0;
  for (let k = 0; k < data.length; k += 4) {
    const colour = (data[k]! << 16) | (data[k + 1]! << 8) | data[k + 2]!;
    seen.set(colour, (seen.get(colour) ?? 0) + 1);
    low = Math.min(low, data[k]!, data[k + 1]!, data[k + 2]!);
    high = Math.max(high, data[k]!, data[k + 1]!, data[k + 2]!);
  }
  if (PLAIN.has(id)) expect(seen.size).toBe(1);
  else {
    expect(seen.size).toBeGreaterThan(FEW.has(id) ? 1 : 12);
    expect(high - low).toBeGreaterThan(FEW.has(id) ? 120 : 60);
  }
  // What is not finite would be marked by stripes of one colour; a place or two of a vector's may happen to have it.
  expect(seen.get((255 << 16) | 107) ?? 0).toBeLessThan(data.length / 4 / 500);
});

test('a picture is made once', () => expect(previewOf('noise')).toBe(previewOf('noise')));
