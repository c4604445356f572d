/** Colours as OKLab and back: Ottosson 2020, A perceptual color space for image processing. */
export type Row = readonly [number, number, number];
export type Matrix = readonly [Row, Row, Row];

export const TO_CONES: Matrix = [
  [0.4122214708, 0.5363325363, 0.0514459929],
  [0.2119034982, 0.6806995451, 0.1073969566],
  [0.0883024619, 0.2817188376, 0.6299787005],
];
export const TO_LAB: Matrix = [
  [0.2104542553, 0.793617785, -0.0040720468],
  [1.9779984951, -2.428592205, 0.4505937099],
  [0.0259040371, 0.7827717662, -0.808675766],
];
export const FROM_LAB: Matrix = [
  [1, 0.3963377774, 0.2158037573],
  [1, -0.1055613458, -0.0638541728],
  [1, -0.0894841775, -1.291485548],
];
export const FROM_CONES: Matrix = [
  [4.0767416621, -3.3077115913, 0.2309699292],
  [-1.2684380046, 2.6097574011, -0.3413193965],
  [-0.0041960863, -0.7034186147, 1.707614701],
];

const times = (matrix: Matrix, v: Row): Row => matrix.map(([a, b, c]) => a * v[0] + b * v[1] + c * v[2]) as unknown as Row;

/** @param rgb linear Rec.709, of any brightness @returns lightness, a, b */
export const oklabOf = (rgb: Row): Row => times(TO_LAB, times(TO_CONES, rgb).map((c) => Math.cbrt(c)) as unknown as Row);

/** @returns linear Rec.709; may be out of gamut */
export const linearOf = (lab: Row): Row => times(FROM_CONES, times(FROM_LAB, lab).map((c) => c ** 3) as unknown as Row);
