/** The starters of growth by their numbers. */
import { outputAt, starter, turned } from '../tests/fixtures/starters.js';

describe('Kelp frond', () => {
  const frond = starter('kelp-frond');
  test('its root is still, its top moves, and what is painted between moves between', () => {
    const times = Array.from({ length: 60 }, (_, k) => [k * 0.2]);
    const swing = (red: number) => {
      const points = { time: times, vertexColour: [[red, 0, 0.5, 1]], position: [[0, red * 1.7, 0]] };
      const planes = outputAt(frond, 'displacement', points, times.length);
      return Math.max(...planes.map((p) => Math.max(...p) - Math.min(...p)));
    };
    expect(swing(0)).toBe(0);
    expect(swing(1)).toBeGreaterThan(0.2);
    expect(swing(0.5)).toBeGreaterThan(0.02);
    expect(swing(0.5)).toBeLessThan(swing(1));
  });
});

describe('Kelp current', () => {
  const kelp = starter('kelp-current');
  const COUNT = 400;
  const times = Array.from({ length: COUNT }, (_, k) => [k * 0.11]);
  /** Where a place of the plant is moved to over three quarters of a minute; standing so that its axes are the stage's. */
  const shift = (effect: typeof kelp, red: number, more = {}) =>
    outputAt(
      effect,
      'displacement',
      {
        ...{ time: times, vertexColour: [[red, 0, 0.5, 1]], position: [[0, red * 1.7, 0]], worldPosition: [[0, red * 1.7, 0]] },
        ...more,
      },
      COUNT,
    );
  const far = (planes: Float32Array[]) => Math.max(...planes.flatMap((p) => [...p].map(Math.abs)));

  test('roots are still and tips move, more the more the plant gives way', () => {
    expect(far(shift(kelp, 0))).toBe(0);
    const tip = far(shift(kelp, 1));
    expect(tip).toBeGreaterThan(0.25);
    expect(far(shift(turned(kelp, { response: 1.9 }), 1)) / tip).toBeCloseTo(2, 4);
    expect(far(shift(kelp, 0.5))).toBeLessThan(0.6 * tip);
  });

  test('gusts take a share of the time, and it leans downstream: no farther back than its bias lets it', () => {
    const gusts = (strength: number) => {
      const shared = [{ ...kelp.shared[0]!, value: strength }];
      const shown = { ...kelp, shared, outputs: { opacity: { from: 'north', port: 'out2' } } };
      return outputAt(shown, 'opacity', { time: times, worldPosition: [[0, 0, 0]], position: [[0, 0, 0]] }, COUNT)[0]!;
    };
    // A floor of 0.3 of the strength, and above it a share of the time.
    for (const strength of [0.2, 0.8]) {
      expect(Math.min(...gusts(strength))).toBeCloseTo(0.3 * strength, 5);
      const share = gusts(strength).filter((g) => g > 0.3 * strength + 0.05).length / COUNT;
      expect(share).toBeGreaterThan(0.1);
      expect(share).toBeLessThan(0.7);
    }
    // The plain lean along its heading: three waves of -1 to 1, each lifted by its bias.
    const ahead = (heading: number, [x, , z]: Float32Array[]) => {
      const [c, s] = [Math.cos((heading * Math.PI) / 180), -Math.sin((heading * Math.PI) / 180)];
      return x!.map((v, k) => v * c + z![k]! * s);
    };
    const one = turned(kelp, { first: 12, second: 12 });
    const lean = ahead(12, shift(one, 1));
    const [amplitudes, biases] = [
      [0.6, 0.34, 0.2],
      [0.9, 0.85, 0.8],
    ];
    const share = 0.95 * 0.42;
    const back = amplitudes.reduce((sum, a, k) => sum + a * (1 - biases[k]!), 0) + 0.16 + 0.12;
    expect(Math.min(...lean)).toBeGreaterThan(-share * back);
    expect(lean.reduce((sum, v) => sum + v / COUNT, 0)).toBeGreaterThan(share * 0.7);
  });

  test('every heading is as fast as any other: what goes east at a time goes north at the same', () => {
    const at = (heading: number) => {
      const effect = turned(kelp, { first: heading, second: heading, lagup: 0, lagpaint: 0 });
      const planes = shift(effect, 1, { worldPosition: [[0, 0, 0]], position: [[0, 0, 0]] });
      const [c, s] = [Math.cos((heading * Math.PI) / 180), -Math.sin((heading * Math.PI) / 180)];
      return planes[0]!.map((v, k) => v * c + planes[2]![k]! * s);
    };
    // Flutter is by axes of the stage: it is as large as 0.12 of the share at most, each way.
    const [east, north] = [at(0), at(90)];
    east.forEach((v, k) => expect(Math.abs(v - north[k]!)).toBeLessThan(0.95 * 0.42 * 0.12 * 2.4));
  });

  test('bent, it is as long as it was; shifted, it is stretched', () => {
    const high = 1.7;
    const longer = (effect: typeof kelp) => {
      const [x, y, z] = shift(effect, 1) as [Float32Array, Float32Array, Float32Array];
      return Math.max(...x.map((v, k) => Math.abs(Math.hypot(v, y[k]! + high, z[k]!) - high)));
    };
    expect(longer(turned(kelp, { bend: 1 }))).toBeLessThan(1e-4);
    expect(longer(kelp)).toBeGreaterThan(0.01);
  });
});
