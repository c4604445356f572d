import { constructSheet } from '../../../../tests/fixtures/sheets.js';
import { whereComputed } from '../../../core/analysis/where.js';
import type { Effect } from '../../../core/effect/schema.js';
import { lower } from '../../../core/lower/lower.js';
import { readKinds } from '../../../core/analysis/reading.js';
import { dotAt, layOver, nameDots, nameHeads, type Plot } from './layout.js';

const SIZE = { width: 1280, height: 440 };
function sheet(strands: number): Effect {
  const effect = constructSheet(strands, { strands });
  const sections = effect.strands.flatMap((s, k) => (k % 13 === 4 ? [{ title: `Section ${k}`, first: s.id }] : []));
  return { ...effect, sections } as Effect;
}
const plotOf = (effect: Effect, size = SIZE): Plot =>
  layOver(
    effect,
    whereComputed(effect, readKinds(lower(effect, { build: 'live' }))),
    new Map(effect.strands.map((s, k) => [s.id, k % 17 === 0 ? 0.05 : 0.001])),
    size,
  );

describe.each([1, 7, 40, 120, 300])('a sheet of %d strands', (count) => {
  const effect = sheet(count);
  const plot = plotOf(effect);
  const at = new Map(plot.dots.map((d) => [d.id, d]));

  test('every strand has one dot, in the lane where it is computed, and no two lie on one another', () => {
    expect(plot.dots.map((d) => d.id).sort()).toEqual(effect.strands.map((s) => s.id).sort());
    for (const d of plot.dots) {
      const lane = plot.lanes.find((l) => l.where === d.where)!;
      expect(d.y).toBeGreaterThan(lane.y);
      expect(d.y).toBeLessThan(lane.y + lane.height);
      expect(d.x).toBeGreaterThanOrEqual(plot.left);
      expect(d.x).toBeLessThanOrEqual(plot.right);
    }
    const spots = new Set(plot.dots.map((d) => `${d.x.toFixed(2)} ${d.y.toFixed(2)}`));
    expect(spots.size).toBe(count);
  });

  test('every thread goes from left to right', () => {
    for (const { from, to } of plot.threads) expect(at.get(from)!.x).toBeLessThan(at.get(to)!.x);
  });

  test('names that are written lie over no other and over no dot; the one that matters most is written', () => {
    const wide = 46;
    const last = plot.dots.at(-1)!;
    const named = nameDots(
      plot,
      (d) => (d === last ? 2 : d.share),
      () => wide,
    );
    expect(named.length).toBeGreaterThan(0);
    const boxes = named.map(({ x, y }) => ({ left: x - wide / 2, right: x + wide / 2, top: y - 9, bottom: y + 2 }));
    boxes.forEach((a, i) =>
      boxes.slice(i + 1).forEach((b) => {
        expect(a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom).toBe(false);
      }),
    );
    for (const box of boxes)
      for (const d of plot.dots) expect(d.x > box.left && d.x < box.right && d.y > box.top && d.y < box.bottom).toBe(false);
    if (count <= 40) expect(named.some((n) => n.id === last.id)).toBe(true);
  });

  test('titles of sections lie over no other', () => {
    const titled = plot.heads.map((h, k) => ({
      ...h,
      title: k % 3 === 0 ? 'A title that is far longer than its section' : h.title,
    }));
    const placed = nameHeads(titled, (title) => title.length * 7).filter((_, k) => titled[k]!.title !== '');
    placed.slice(1).forEach(({ left }, k) => expect(left).toBeGreaterThanOrEqual(placed[k]!.left + placed[k]!.width));
    for (const { width } of placed) expect(width).toBeGreaterThanOrEqual(0);
  });

  test('the outputs stand within the drawing, none over another', () => {
    const ys = plot.ends.map((e) => e.y);
    ys.slice(1).forEach((y, k) => expect(y - ys[k]!).toBeGreaterThan(20));
    for (const y of ys) expect(y > 0 && y < plot.height).toBe(true);
  });
});

test('a costlier strand has the larger disc, and is found where it is pointed at', () => {
  const plot = plotOf(sheet(40));
  const [dear, cheap] = [plot.dots.find((d) => d.share === 0.05)!, plot.dots.find((d) => d.share === 0.001)!];
  expect(dear.r).toBeGreaterThan(cheap.r);
  expect(dotAt(plot, cheap.x + 1, cheap.y - 1)).toBe(cheap);
  expect(dotAt(plot, 5, 5)).toBeNull();
});

test('titles of sections: over their beginnings, over the end where only there is room, and never over one another', () => {
  const head = (x: number, width: number, title = 'Title') => ({ first: `${x}`, title, x, width });
  const wide = (title: string) => title.length * 8;
  expect(nameHeads([head(0, 100), head(120, 60)], wide)).toMatchObject([
    { left: 0, width: 40 },
    { left: 120, width: 40 },
  ]);
  // A long one at the end leans into the room before it.
  expect(nameHeads([head(0, 200), head(220, 40, 'What is seen')], wide)[1]).toEqual({ left: 164, width: 96, end: true });
});
