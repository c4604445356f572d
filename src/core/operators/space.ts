/** Directions and turns in space, as several operators need them. */
import type { Builder } from '../ir/builder.js';
import { sineTurns } from '../ir/kernels/transcendental.js';
import type { Node } from '../ir/types.js';
import { eachComponent } from './components.js';

/** Square to both: of what grows with time component by component, so that nothing of it is lost. */
export function cross(b: Builder, a: Node, c: Node): Node {
  if (!b.grown(a) && !b.grown(c)) return b.composite('cross', a, c);
  const [ax, ay, az] = b.split(a) as [Node, Node, Node];
  const [cx, cy, cz] = b.split(c) as [Node, Node, Node];
  const side = (p: Node, q: Node, r: Node, s: Node) => b.sub(b.mul(p, q), b.mul(r, s));
  return b.join(side(ay, cz, az, cy), side(az, cx, ax, cz), side(ax, cy, ay, cx));
}

/** Radians, as angles are in the core, to turns. */
export const turnsOf = (b: Builder, radians: Node) => b.mul(radians, 1 / (2 * Math.PI));
/** Of angles in whole turns, component by component, wherever they stand. */
export const sine = (b: Builder, turns: Node): Node => eachComponent(b, sineTurns, turns);
export const cosine = (b: Builder, turns: Node): Node => sine(b, b.add(turns, 0.25));

/**
 * A vector turned about an axis by the right hand. Rodrigues 1840: v cos a + (k x v) sin a + k (k.v)(1 - cos a).
 * @param axis of length 1 or 0; @param angle radians
 */
export function turnAbout(b: Builder, v: Node, axis: Node, angle: Node): Node {
  const turns = turnsOf(b, angle);
  const [s, c] = [sine(b, turns), cosine(b, turns)];
  const along = b.mul(axis, b.mul(b.composite('dot', axis, v), b.sub(1, c)));
  return b.add(b.add(b.mul(v, c), b.mul(cross(b, axis, v), s)), along);
}

/** A point of the plane turned about the origin, counter-clockwise. @param turns whole turns */
export function turned(b: Builder, point: Node, turns: Node): Node {
  const [s, c] = [sine(b, turns), cosine(b, turns)];
  const [x, y] = [b.pick(point, 0), b.pick(point, 1)];
  return b.join(b.sub(b.mul(x, c), b.mul(y, s)), b.add(b.mul(x, s), b.mul(y, c)));
}

/** A direction over the ground: 0 along x, a quarter turn against z. @param angle radians */
export function headingOf(b: Builder, angle: Node): Node {
  const turns = turnsOf(b, angle);
  return b.join(cosine(b, turns), b.constant(0), b.op('neg', sine(b, turns)));
}

/** Where u and v grow along the surface, on the stage: metres for one unit of each; 0 where there are no coordinates. */
export function tangentFrame(b: Builder): [Node, Node] {
  const [px, py] = [b.leaf('worldPositionDx'), b.leaf('worldPositionDy')];
  const [ux, vx] = b.split(b.leaf('uvDx')) as [Node, Node];
  const [uy, vy] = b.split(b.leaf('uvDy')) as [Node, Node];
  const area = b.sub(b.mul(ux, vy), b.mul(uy, vx));
  return [b.div(b.sub(b.mul(px, vy), b.mul(py, vx)), area), b.div(b.sub(b.mul(py, ux), b.mul(px, uy)), area)];
}
