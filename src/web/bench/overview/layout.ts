/**
 * The Overview's drawing: lanes by where a value is computed, columns by section and by what must come before, a dot a
 * strand. It arranges itself, the same for the same sheet; choosing changes only which names are written.
 */
import { isLink, strandsOf, type Effect } from '../../../core/effect/schema.js';
import { OUTPUTS, type OutputName } from '../../../core/effect/outputs.js';
import { sourcesOf } from '../../../core/effect/threads.js';
import type { Rate } from '../../../core/ir/leaves.js';

export const LANES: readonly Rate[] = ['once', 'frame', 'vertex', 'pixel'];

/** Left of the plot: the lanes' names; right of it: the outputs. */
const PLOT_LEFT = 122;
const OUTPUTS_WIDTH = 200;
/** Between two dots of a lane, one over the other: a dot and its name. */
const TRACK = 25;
const LANE_PAD = 12;
/** What a lane takes where it is empty, and how the rest is shared out, by strands. */
const EMPTY_LANE = 46;
const LEAST_LANE = 58;
/** Kept from the plot's ends, so that names of the first and the last dot stay inside. */
const INSET = 26;
const OUTPUT_PITCH = 30;
const LABEL_HEIGHT = 13;

export interface Lane {
  readonly where: Rate;
  readonly y: number;
  readonly height: number;
  readonly count: number;
  /** Of the cost, 0..1. */
  readonly share: number;
}
export interface Dot {
  readonly id: string;
  readonly name: string;
  readonly where: Rate;
  readonly x: number;
  readonly y: number;
  /** Of its disc: larger where it costs more. */
  readonly r: number;
  readonly share: number;
}
export interface Head {
  readonly first: string;
  readonly title: string;
  readonly x: number;
  readonly width: number;
}
export interface End {
  readonly name: OutputName;
  readonly from: string;
  readonly x: number;
  readonly y: number;
}
export interface Plot {
  readonly width: number;
  readonly height: number;
  readonly left: number;
  readonly right: number;
  readonly lanes: readonly Lane[];
  readonly heads: readonly Head[];
  readonly dots: readonly Dot[];
  readonly ends: readonly End[];
  readonly threads: readonly { readonly from: string; readonly to: string }[];
}

interface Placed {
  readonly id: string;
  readonly where: Rate;
  readonly sources: readonly string[];
  column: number;
  track: number;
}

/** A disc's radius: an area that tells the share, and never less than can be seen. */
export const radiusOf = (share: number, dense: boolean): number => (dense ? 2 : 3.5) + 2.6 * Math.sqrt(100 * share);

/** The runs of a sheet: its sections, and what stands before the first. */
function runsOf(effect: Effect): { readonly first: string; readonly title: string; readonly ids: string[] }[] {
  const heads = new Map(effect.sections.map((s) => [s.first, s.title]));
  const runs: { first: string; title: string; ids: string[] }[] = [];
  for (const { id } of strandsOf(effect)) {
    if (runs.length === 0 || heads.has(id)) runs.push({ first: id, title: heads.get(id) ?? '', ids: [] });
    runs.at(-1)!.ids.push(id);
  }
  return runs;
}

/** Columns of a run: each strand right of what it reads, and what reads nothing as late as it may be. @returns how many */
function columnsOf(run: readonly Placed[], tracks: Readonly<Record<Rate, number>>): number {
  const here = new Map(run.map((p) => [p.id, p]));
  const readers = new Map<string, Placed[]>();
  for (const p of run) {
    p.column = Math.max(0, ...p.sources.map((s) => (here.get(s)?.column ?? -1) + 1));
    for (const s of p.sources) readers.set(s, [...(readers.get(s) ?? []), p]);
  }
  for (const p of [...run].reverse())
    if (!p.sources.some((s) => here.has(s)) && readers.has(p.id))
      p.column = Math.max(0, Math.min(...readers.get(p.id)!.map((r) => r.column)) - 1);
  // No more in a lane of one column than there is room for: the rest moves on, and its readers with it.
  const taken = new Map<string, number>();
  let columns = 0;
  for (const p of [...run].sort((a, b) => a.column - b.column)) {
    let column = Math.max(p.column, ...p.sources.map((s) => (here.get(s)?.column ?? -1) + 1));
    while ((taken.get(`${p.where} ${column}`) ?? 0) >= tracks[p.where]) column++;
    p.column = column;
    taken.set(`${p.where} ${column}`, (taken.get(`${p.where} ${column}`) ?? 0) + 1);
    columns = Math.max(columns, column + 1);
  }
  return columns;
}

/** How high each lane is: room for the strands it has, and never so little that its name does not fit. */
function lanesOf(where: ReadonlyMap<string, Rate>, shares: ReadonlyMap<string, number>, height: number): Lane[] {
  const counts = LANES.map((lane) => [...where.values()].filter((w) => w === lane).length);
  const least = counts.map((n) => (n === 0 ? EMPTY_LANE : LEAST_LANE));
  const weight = counts.map(Math.sqrt);
  const sum = weight.reduce((a, b) => a + b, 0) || 1;
  const free = Math.max(0, height - least.reduce((a, b) => a + b, 0));
  let y = 0;
  return LANES.map((lane, k) => {
    const tall = least[k]! + (free * weight[k]!) / sum;
    const share = [...where].reduce((all, [id, w]) => (w === lane ? all + (shares.get(id) ?? 0) : all), 0);
    const made = { where: lane, y, height: tall, count: counts[k]!, share };
    y += tall;
    return made;
  });
}

/**
 * A track for each strand: near what it reads, and away from what stands just before it, so that names and curves have room.
 * Goes from left to right; the first that is as good as any other is taken.
 * @param tall half of what a strand's disc takes, in tracks of its lane: large ones of one column do not touch
 */
function trackAll(placed: readonly Placed[], tracks: Readonly<Record<Rate, number>>, tall: (p: Placed) => number): void {
  const at = new Map<string, string>();
  const columns = new Map<string, Placed[]>();
  const found = new Map(placed.map((p) => [p.id, p]));
  const lastReader = new Map<string, number>();
  for (const p of placed) for (const s of p.sources) lastReader.set(s, Math.max(lastReader.get(s) ?? 0, p.column));
  /** By lane and track, the column as far as a curve runs along it. */
  const running = new Map<string, number>();
  for (const p of [...placed].sort((a, b) => a.column - b.column)) {
    const beside = p.sources.flatMap((s) => (found.get(s)?.where === p.where ? [found.get(s)!.track] : []));
    const wanted = beside.length > 0 ? beside.reduce((a, b) => a + b, 0) / beside.length : (tracks[p.where] - 1) / 2;
    const price = (track: number): number => {
      if (at.has(`${p.where} ${p.column} ${track}`)) return Infinity;
      const touched = (columns.get(`${p.where} ${p.column}`) ?? []).some((o) => Math.abs(o.track - track) < tall(o) + tall(p));
      const near = [1, 2].reduce((sum, back) => {
        const other = at.get(`${p.where} ${p.column - back} ${track}`);
        return sum + (other === undefined ? 0 : (p.sources.includes(other) ? 0.7 : 1.6) / back);
      }, 0);
      const own = p.sources.some((s) => found.get(s)?.track === track && found.get(s)?.where === p.where);
      const crossed = !own && (running.get(`${p.where} ${track}`) ?? -1) > p.column ? 1.3 : 0;
      return Math.abs(track - wanted) + near + crossed + (touched ? 100 : 0);
    };
    const order = Array.from({ length: tracks[p.where] }, (_, k) => k);
    p.track = order.reduce((best, k) => (price(k) < price(best) - 1e-9 ? k : best), 0);
    at.set(`${p.where} ${p.column} ${p.track}`, p.id);
    const column = `${p.where} ${p.column}`;
    columns.set(column, [...(columns.get(column) ?? []), p]);
    const along = `${p.where} ${p.track}`;
    running.set(along, Math.max(running.get(along) ?? -1, lastReader.get(p.id) ?? -1));
  }
}

/** The outputs, each about as high as what drives it, and none over another. */
function endsOf(effect: Effect, dots: ReadonlyMap<string, Dot>, x: number, height: number): End[] {
  const ends = OUTPUTS[effect.kind].flatMap((name) => {
    const input = effect.outputs[name];
    const dot = isLink(input) ? dots.get(input.from) : undefined;
    return dot ? [{ name, from: dot.id, x, y: dot.y }] : [];
  });
  ends.sort((a, b) => a.y - b.y);
  const pitch = Math.min(OUTPUT_PITCH, (height - 24) / Math.max(1, ends.length));
  const ys = ends.map((e) => e.y);
  for (let k = 0; k < ys.length; k++) ys[k] = Math.max(ys[k]!, k === 0 ? 16 : ys[k - 1]! + pitch);
  for (let k = ys.length - 1; k >= 0; k--) ys[k] = Math.min(ys[k]!, k === ys.length - 1 ? height - 16 : ys[k + 1]! - pitch);
  return ends.map((e, k) => ({ ...e, y: ys[k]! }));
}

/**
 * @param where each strand is computed; @param shares of the cost, 0..1, by strand
 * @param size of the drawing, in pixels, below the line of titles
 */
export function layOver(
  effect: Effect,
  where: ReadonlyMap<string, Rate>,
  shares: ReadonlyMap<string, number>,
  size: { readonly width: number; readonly height: number },
): Plot {
  const lanes = lanesOf(where, shares, size.height);
  const laneOf = Object.fromEntries(lanes.map((l) => [l.where, l])) as Record<Rate, Lane>;
  const tracks = Object.fromEntries(
    lanes.map((l) => [l.where, Math.max(1, Math.floor((l.height - LANE_PAD) / TRACK))]),
  ) as Record<Rate, number>;
  const strands = new Map(strandsOf(effect).map((s) => [s.id, s]));
  const runs = runsOf(effect).map((run) => {
    const placed = run.ids.map((id): Placed => ({
      id,
      where: where.get(id) ?? 'pixel',
      sources: sourcesOf(strands.get(id)!),
      column: 0,
      track: 0,
    }));
    return { ...run, placed, columns: columnsOf(placed, tracks) };
  });
  // From here on columns count over the whole sheet; half a column is left between sections.
  let column = 0;
  const begins = runs.map((run) => {
    const begin = column;
    for (const p of run.placed) p.column += begin;
    column += run.columns + 0.5;
    return begin;
  });
  const all = runs.flatMap((r) => r.placed);
  const dense = strands.size > 80;
  trackAll(all, tracks, ({ id, where: lane }) => {
    const spacing = (laneOf[lane].height - LANE_PAD) / tracks[lane];
    return (radiusOf(shares.get(id) ?? 0, dense) + 1) / spacing;
  });
  const [left, right] = [PLOT_LEFT, size.width - OUTPUTS_WIDTH];
  const pitch = (right - left - 2 * INSET) / Math.max(1, column - 1.5);
  const xOf = (at: number) => (column <= 1.5 ? (left + right) / 2 : left + INSET + at * pitch);
  const dots = all.map((p): Dot => {
    const lane = laneOf[p.where];
    const share = shares.get(p.id) ?? 0;
    const y = lane.y + LANE_PAD + (lane.height - LANE_PAD) * ((p.track + 0.5) / tracks[p.where]);
    return { id: p.id, name: strands.get(p.id)!.name, where: p.where, x: xOf(p.column), y, r: radiusOf(share, dense), share };
  });
  const heads = runs.map((run, k) => ({
    ...{ first: run.first, title: run.title },
    ...{ x: xOf(begins[k]!) - 8, width: Math.max(8, Math.min((run.columns + 0.5) * pitch - 10, right + 20 - xOf(begins[k]!))) },
  }));
  return {
    ...size,
    ...{ left, right, lanes, heads, dots },
    ends: endsOf(effect, new Map(dots.map((d) => [d.id, d])), right + 36, size.height),
    threads: all.flatMap((p) => p.sources.map((from) => ({ from, to: p.id }))),
  };
}

export interface Named {
  readonly id: string;
  readonly x: number;
  readonly y: number;
}
interface Rectangle {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}
const meets = (a: Rectangle, b: Rectangle): boolean =>
  a.left < b.right && b.left < a.right && a.top < b.bottom && b.top < a.bottom;

/**
 * Which names are written, and where: above their dots or below, those that matter first, and none over another or over a
 * dot. What has no room is named when it is pointed at.
 * @param rank how much a strand's name matters; @param wide pixels of a dot's name
 */
export function nameDots(plot: Plot, rank: (dot: Dot) => number, wide: (dot: Dot) => number): Named[] {
  const discs = plot.dots.map((d): Rectangle => {
    const r = Math.min(d.r, 9);
    return { left: d.x - r, right: d.x + r, top: d.y - r, bottom: d.y + r };
  });
  const taken: Rectangle[] = [];
  const named: Named[] = [];
  for (const dot of [...plot.dots].sort((a, b) => rank(b) - rank(a))) {
    const half = wide(dot) / 2 + 2;
    const x = Math.max(plot.left + half, Math.min(plot.right - half, dot.x));
    for (const y of [dot.y - dot.r - 5, dot.y + dot.r + LABEL_HEIGHT - 1]) {
      const box = { left: x - half, right: x + half, top: y - LABEL_HEIGHT + 3, bottom: y + 3 };
      if (box.top < 0 || box.bottom > plot.height) continue;
      if (taken.some((t) => meets(t, box)) || discs.some((d) => meets(d, box))) continue;
      taken.push(box);
      named.push({ id: dot.id, x, y });
      break;
    }
  }
  return named;
}

/**
 * Where the titles of the sections stand: over the beginning of their own, or over its end where only there a longer one has
 * room; a title is cut only where there is room on neither side.
 * @param wide pixels of a title
 */
export function nameHeads(
  heads: Plot['heads'],
  wide: (title: string) => number,
): { left: number; width: number; end: boolean }[] {
  const APART = 10;
  let taken = -Infinity;
  return heads.map(({ title, x, width }, k) => {
    const needs = wide(title);
    const right = x + width;
    const next = heads.slice(k + 1).find((h) => h.title !== '')?.x ?? right + APART;
    const end = x + needs > next - APART && right - needs >= taken;
    const left = end ? right - needs : Math.max(x, taken);
    const room = end ? needs : Math.max(0, Math.min(needs, Math.max(right, next - APART) - left));
    if (title !== '') taken = left + room + APART;
    return { left, width: room, end };
  });
}

/** Along the lane out of a dot and into the next. */
export function curveBetween(a: { x: number; y: number }, b: { x: number; y: number }): string {
  const far = Math.abs(b.x - a.x);
  const reach = Math.max(Math.min(14, far), far * 0.5);
  const f = (n: number) => n.toFixed(1);
  return `M${f(a.x)} ${f(a.y)} C${f(a.x + reach)} ${f(a.y)} ${f(b.x - reach)} ${f(b.y)} ${f(b.x)} ${f(b.y)}`;
}

/** The dot next to a point, within a finger's width of it. */
export function dotAt(plot: Plot, x: number, y: number): Dot | null {
  const far = (d: Dot) => Math.max(0, Math.hypot(d.x - x, d.y - y) - d.r);
  const near = plot.dots.reduce<Dot | null>((best, d) => (best === null || far(d) < far(best) ? d : best), null);
  return near !== null && far(near) <= 12 ? near : null;
}
