/** What is computed from triangles, against the closed forms of the shapes they stand for. */
import { PlaneGeometry, SphereGeometry, CylinderGeometry, BoxGeometry, Vector3 } from 'three';
import { FAR_EDGE, edgesOf } from './edges.js';
import { slopesOf, tangentOf } from './slopes.js';

const partsOf = (g: SphereGeometry | PlaneGeometry | CylinderGeometry | BoxGeometry) => ({
  position: g.getAttribute('position').array,
  normal: g.getAttribute('normal').array,
  index: g.getIndex()!.array,
  uv: g.getAttribute('uv').array,
});

test('the tangent is a unit at right angles to the normal, and turns without a jump', () => {
  let before: Vector3 | null = null;
  for (let k = 0; k <= 400; k++) {
    const a = (k / 400) * Math.PI * 0.98;
    const n = new Vector3(Math.sin(a) * Math.cos(3 * a), Math.sin(a) * Math.sin(3 * a), Math.cos(a));
    const t = new Vector3(...tangentOf([n.x, n.y, n.z]));
    expect(t.length()).toBeCloseTo(1, 6);
    expect(t.dot(n)).toBeCloseTo(0, 6);
    // It may turn over once, where the normal crosses the plane z = 0.
    if (before && Math.abs(n.z) > 0.05) expect(t.distanceTo(before)).toBeLessThan(0.1);
    before = t;
  }
});

test('on a plane uv change by one over its size, along its tangent and bitangent', () => {
  const { uv, ...mesh } = partsOf(new PlaneGeometry(4, 2, 8, 8));
  const { t, b } = slopesOf(mesh, uv, 2);
  for (let v = 0; v < mesh.position.length / 3; v++) {
    // The tangent of +z is +x.
    expect([t[v * 2], t[v * 2 + 1], b[v * 2], b[v * 2 + 1]].map((x) => x!.toFixed(6))).toEqual(
      [0.25, 0, 0, 0.5].map((x) => x.toFixed(6)),
    );
  }
});

test('the normal of a sphere changes by 1 / radius along the surface, in the direction gone (differential geometry: its shape operator)', () => {
  const radius = 0.7;
  const mesh = partsOf(new SphereGeometry(radius, 96, 48));
  const { t, b } = slopesOf(mesh, mesh.normal, 3);
  let worst = 0;
  for (let v = 0; v < mesh.position.length / 3; v++) {
    const n = new Vector3(...Array.from(mesh.normal).slice(v * 3, v * 3 + 3));
    // Poles have triangles to one side of each of their vertices alone.
    if (Math.abs(n.y) > 0.99) continue;
    const tangent = new Vector3(...tangentOf([n.x, n.y, n.z]));
    const bitangent = n.clone().cross(tangent);
    const along = (s: Float32Array) => new Vector3(s[v * 3]!, s[v * 3 + 1]!, s[v * 3 + 2]!);
    worst = Math.max(
      worst,
      along(t).distanceTo(tangent.divideScalar(radius)) * radius,
      along(b).distanceTo(bitangent.divideScalar(radius)) * radius,
    );
  }
  // Triangles are chords: of 3.75 degrees here.
  expect(worst).toBeLessThan(0.04);
});

test('triangles without area and numbers that are none count for nothing', () => {
  const position = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0];
  const normal = Array.from({ length: 6 }, () => [0, 0, 1]).flat();
  const { t, b } = slopesOf({ position, normal, index: null }, [0, 5, NaN, 0, 1, 0], 1);
  expect([...t]).toEqual([0, 0, 0, 1, 1, 1]);
  expect([...b]).toEqual([0, 0, 0, 0, 0, 0]);
});

describe('edges', () => {
  test('a corner is as far from the opposite side as the triangle is high', () => {
    const { all } = edgesOf([0, 0, 0, 3, 0, 0, 0, 4, 0], [0, 1, 2]);
    // A right triangle of 3, 4, 5: heights 12/5, 3, 4.
    expect([...all].map((x) => Number(x.toFixed(5)))).toEqual([2.4, 0, 0, 0, 3, 0, 0, 0, 4]);
  });
  test('quads lose their diagonals: every triangle of a grid, a sphere’s belt, a box; none of a fan', () => {
    const hidden = (g: Parameters<typeof partsOf>[0]) => {
      const { position, index } = partsOf(g);
      const { quads } = edgesOf(position, index);
      const lost: number[] = [];
      for (let t = 0; t < index.length / 3; t++)
        lost.push([0, 1, 2].filter((k) => [0, 1, 2].every((c) => quads[t * 9 + c * 3 + k] === FAR_EDGE)).length);
      return lost;
    };
    expect(hidden(new PlaneGeometry(2, 1, 6, 6)).every((n) => n === 1)).toBe(true);
    expect(hidden(new BoxGeometry(1, 2, 3, 4, 4, 4)).every((n) => n === 1)).toBe(true);
    const sphere = hidden(new SphereGeometry(1, 24, 12));
    // One row of single triangles at each pole.
    expect(sphere.filter((n) => n === 0).length).toBe(48);
    const caps = hidden(new CylinderGeometry(1, 1, 2, 24, 4));
    expect(caps.filter((n) => n === 0).length).toBe(48);
  });
  test('a triangle without area is an edge, and takes nothing with it', () => {
    const { all } = edgesOf([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0], [0, 1, 2, 0, 1, 3]);
    expect([...all.slice(0, 9)]).toEqual([0, 0, 0, 0, 0, 0, 0, 0, 0]);
    expect(all[9 + 8]).toBe(1);
  });
});
