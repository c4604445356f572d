/** Faces of any number of corners, cut into triangles. */
import earcut from 'earcut';

/** Newell's normal of a polygon: its length is twice the polygon's area, whatever its shape (Sutherland et al. 1974). */
function normalOf(position: ArrayLike<number>, corners: readonly number[]): [number, number, number] {
  const normal: [number, number, number] = [0, 0, 0];
  corners.forEach((corner, k) => {
    const [a, b] = [corner * 3, corners[(k + 1) % corners.length]! * 3];
    for (let lane = 0; lane < 3; lane++) {
      const [u, v] = [(lane + 1) % 3, (lane + 2) % 3];
      normal[lane]! += (position[a + u]! - position[b + u]!) * (position[a + v]! + position[b + v]!);
    }
  });
  return normal;
}

/**
 * Cuts a face along its plane, so that the triangles cover what it covers and no more, where it is hollowed too.
 * @param position three numbers a vertex @param corners of the face, in order, by their vertices
 * @returns three corners a triangle, by their places in the face, wound as the face is
 */
export function cutFace(position: ArrayLike<number>, corners: readonly number[]): number[] {
  const fan = corners.slice(2).flatMap((_, k) => [0, k + 1, k + 2]);
  if (corners.length < 4) return fan;
  const normal = normalOf(position, corners);
  const drop = normal.map(Math.abs).reduce((most, v, lane, all) => (v > all[most]! ? lane : most), 0);
  const [u, v] = [(drop + 1) % 3, (drop + 2) % 3];
  const way = Math.sign(normal[drop]!);
  // One without an area, or with a corner that is nowhere, is told of by whoever counts its vertices.
  if (!way) return fan;
  const flat = corners.flatMap((c) => [position[c * 3 + u]!, position[c * 3 + v]!]);
  const turn = (a: number, b: number, c: number) =>
    way *
    ((flat[2 * b]! - flat[2 * a]!) * (flat[2 * c + 1]! - flat[2 * a + 1]!) -
      (flat[2 * b + 1]! - flat[2 * a + 1]!) * (flat[2 * c]! - flat[2 * a]!));
  const n = corners.length;
  if (n === 4 ? turn(0, 1, 2) > 0 && turn(0, 2, 3) > 0 : corners.every((_, k) => turn(k, (k + 1) % n, (k + 2) % n) > 0)) {
    // A star turns the same way at each corner too, and is covered twice by a fan: it has more area than its outline.
    const area = fan.reduce((sum, _, k) => (k % 3 === 0 ? sum + Math.abs(turn(fan[k]!, fan[k + 1]!, fan[k + 2]!)) : sum), 0);
    if (Math.abs(area - Math.abs(normal[drop]!)) <= 1e-6 * area) return fan;
  }
  const cut = earcut(flat);
  if (cut.length === 0) return fan;
  for (let k = 0; k < cut.length; k += 3)
    if (turn(cut[k]!, cut[k + 1]!, cut[k + 2]!) < 0) [cut[k + 1], cut[k + 2]] = [cut[k + 2]!, cut[k + 1]!];
  return cut;
}
