import { OPERATORS } from './catalogue.js';
import { findOperators } from './find.js';

test('by name first, then by what people call it; nothing for what nothing is called', () => {
  expect(findOperators('noi')[0]!.id).toBe('noise');
  expect(findOperators('mult')[0]!.id).toBe('multiply');
  expect(findOperators('lerp')[0]!.id).toBe('mix');
  expect(findOperators('rim')[0]!.id).toBe('fresnel');
  expect(findOperators('zzz')).toEqual([]);
  expect(findOperators(' ')).toHaveLength(OPERATORS.length);
});

test('everything is found first by its own name', () => {
  expect(OPERATORS.filter((o) => findOperators(o.label)[0] !== o).map((o) => o.label)).toEqual([]);
});

// Phrases of our own, as a beginner might put what is wanted. Common practice, no source.
test.each([
  ['gradient along the height', 'height'],
  ['edge of a mesh', 'edgeDistance'],
  ['glow at the rim', 'fresnel'],
  ['lines where it touches the floor', 'contact'],
  ['burn away', 'dissolve'],
  ['blinking light', 'flicker'],
  ['moving texture', 'scroll'],
  ['random number for every copy', 'propRandom'],
  ['waves on the sea', 'gerstner'],
  ['colour of a hot flame', 'blackbody'],
  ['see through glass, distorted', 'refractOffset'],
  ['honeycomb pattern', 'hexTiles'],
  ['wind in the grass', 'sway'],
  ['make it brighter', 'intensity'],
  ['bubbles or scales', 'cells'],
  ['clouds and smoke', 'fractal'],
  ['darker the deeper the water', 'absorb'],
  ['turn a pattern around', 'spin'],
  ['cut off values above one', 'clamp'],
  ['fade with distance', 'falloff'],
  ['on and off in a rhythm', 'beat'],
  ['bumps on the surface', 'normalFromHeight'],
  ['which side faces up', 'slope'],
  ['something between two colours', 'mix'],
  ['sharpen a mask', 'harden'],
])('“%s” finds %s among the first three', (phrase, id) => {
  expect(
    findOperators(phrase)
      .slice(0, 3)
      .map((o) => o.id),
  ).toContain(id);
});
