/** Colours as OKLab and back: Ottosson 2020, A perceptual color space for image processing. */
import { FROM_CONES, FROM_LAB, TO_CONES, TO_LAB, type Matrix } from '../base/oklab.js';
import type { Builder } from '../ir/builder.js';
import { power } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';

type Three = readonly [Node, Node, Node];

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
