/** Colours as OKLab and back: Ottosson 2020, A perceptual color space for image processing. */
import type { Builder } from '../ir/builder.js';
import { power } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';

type Row = readonly [number, number, number];
type Three = readonly [Node, Node, Node];
type Matrix = readonly [Row, Row, Row];

const TO_CONES: Matrix = [
  [0.4122214708, 0.5363325363, 0.0514459929],
  [0.2119034982, 0.6806995451, 0.1073969566],
  [0.0883024619, 0.2817188376, 0.6299787005],
];
const TO_LAB: Matrix = [
  [0.2104542553, 0.793617785, -0.0040720468],
  [1.9779984951, -2.428592205, 0.4505937099],
  [0.0259040371, 0.7827717662, -0.808675766],
];
const FROM_LAB: Matrix = [
  [1, 0.3963377774, 0.2158037573],
  [1, -0.1055613458, -0.0638541728],
  [1, -0.0894841775, -1.291485548],
];
const FROM_CONES: Matrix = [
  [4.0767416621, -3.3077115913, 0.2309699292],
  [-1.2684380046, 2.6097574011, -0.3413193965],
  [-0.0041960863, -0.7034186147, 1.707614701],
];

const times = (b: Builder, matrix: Matrix, v: Three): Three =>
  matrix.map((row) => row.map((c, k) => b.mul(v[k]!, c)).reduce((s, p) => b.add(s, p))) as unknown as Three;

/** The cube root, of numbers below 0 too. */
const cubeRoot = (b: Builder, x: Node) => b.mul(b.op('sign', x), b.call(power, b.op('abs', x), 1 / 3));

/** @param rgb linear Rec.709, three components @returns lightness, a, b */
export const toOklab = (b: Builder, rgb: Node): Three =>
  times(b, TO_LAB, times(b, TO_CONES, b.split(rgb) as unknown as Three).map((c) => cubeRoot(b, c)) as unknown as Three);

/** @returns linear Rec.709, three components; may be out of gamut */
export const fromOklab = (b: Builder, lab: Three): Node =>
  b.join(...times(b, FROM_CONES, times(b, FROM_LAB, lab).map((c) => b.mul(b.mul(c, c), c)) as unknown as Three));
