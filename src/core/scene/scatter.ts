/** Scattering: copies of a prop over an area, or where a surface is; and what a group does together. */
import { randomOf } from '../base/random.js';
import { shareProp } from './definitions.js';
import { MAX_PROPS, duplicateProp, freshPropId, propOf, type Vec3 } from './edits.js';
import { turnOf, turnedBy } from './placing.js';
import type { Prop, Stage } from './stage.js';

/** How many places are tried for each copy: the one that is farthest from all others is taken. */
const CANDIDATES = 12;
/** Scales differ by this share each way. */
const SIZES = 0.15;

/** A sequence of random numbers, 0 to 1, the same for the same seed. */
function numbers(seed: number): () => number {
  let drawn = 0;
  return () => randomOf(Math.imul(seed + 1, 0x9e3779b1) + ++drawn);
}

/**
 * Places spread evenly without a pattern (best candidate: Mitchell 1991).
 * @param place one of those that may be taken, by two random numbers
 * @param taken what the first are to keep away from
 */
export function spread(count: number, seed: number, place: (u: number, v: number) => Vec3, taken: readonly Vec3[] = []): Vec3[] {
  const next = numbers(seed);
  const all = [...taken];
  const found: Vec3[] = [];
  for (let k = 0; k < count; k++) {
    let best: { readonly at: Vec3; readonly far: number } | null = null;
    for (let c = 0; c < CANDIDATES; c++) {
      const at = place(next(), next());
      const far = all.reduce((least, p) => Math.min(least, Math.hypot(...at.map((v, axis) => v - p[axis]!))), Infinity);
      if (!best || far > best.far) best = { at, far };
    }
    all.push(best!.at);
    found.push(best!.at);
  }
  return found;
}

/** Places on the level of a prop, in a rectangle about it. @param size metres along x and z */
export const spreadAbout = (
  { place }: Pick<Prop, 'place'>,
  count: number,
  seed: number,
  size: readonly [number, number],
): Vec3[] => spread(count, seed, (u, v) => [place[0] + (u - 0.5) * size[0], place[1], place[2] + (v - 0.5) * size[1]], [place]);

/**
 * Puts copies of a prop at places, turned about the vertical and sized each by itself, in a group with it.
 * @returns how many: no more than there is room for
 */
export function scatterProp(
  draft: Stage,
  { id, places, seed, shared = false }: { id: string; places: readonly Vec3[]; seed: number; shared?: boolean },
): number {
  const prop = propOf(draft, id);
  const group = (prop.group ??= freshGroup(draft, prop.name));
  const room = Math.min(places.length, MAX_PROPS - draft.props.length);
  const next = numbers(seed + 7919);
  const rounded = (v: number) => Math.round(v * 1000) / 1000;
  for (const place of places.slice(0, room)) {
    const newId = freshPropId(draft, prop.name);
    (shared ? shareProp : duplicateProp)(draft, { id, newId, place: place.map(rounded) as Vec3 });
    const copy = propOf(draft, newId);
    const by = 1 + SIZES * (2 * next() - 1);
    copy.turn = times(turnOf([0, Math.round(360 * next()), 0]), prop.turn);
    copy.scale = prop.scale.map((s) => rounded(s * by)) as Vec3;
    copy.group = group;
  }
  return room;
}

/** A name that no other group of the stage has. */
export function freshGroup(stage: Pick<Stage, 'props'>, name: string): string {
  const taken = new Set(stage.props.map((p) => p.group));
  const plain = name.replace(/ \d+$/, '').slice(0, 56);
  if (!taken.has(plain)) return plain;
  for (let k = 2; ; k++) if (!taken.has(`${plain} ${k}`)) return `${plain} ${k}`;
}

type Turn = Prop['turn'];

/** One turn after another: the first is done last. */
function times([ax, ay, az, aw]: Turn, [bx, by, bz, bw]: Turn): Turn {
  return [
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
    aw * bw - ax * bx - ay * by - az * bz,
  ];
}

/** Those that go where a prop goes: the others of its group that are not locked. */
const companions = (stage: Pick<Stage, 'props'>, prop: Prop): Prop[] =>
  prop.group === null ? [] : stage.props.filter((p) => p !== prop && p.group === prop.group && !p.locked);

/** Moves a prop, and its group with it. */
export function moveTogether(draft: Stage, { id, place }: { id: string; place: Vec3 }): void {
  const prop = propOf(draft, id);
  const by = place.map((v, k) => v - prop.place[k]!);
  for (const other of companions(draft, prop)) other.place = other.place.map((v, k) => v + by[k]!) as Vec3;
  prop.place = place;
}

/** Turns a prop, and its group about it. */
export function turnTogether(draft: Stage, { id, turn }: { id: string; turn: Turn }): void {
  const prop = propOf(draft, id);
  const [x, y, z, w] = prop.turn;
  const by = times(turn, [-x, -y, -z, w]);
  for (const other of companions(draft, prop)) {
    const arm = other.place.map((v, k) => v - prop.place[k]!) as Vec3;
    other.place = turnedBy(by, arm).map((v, k) => v + prop.place[k]!) as Vec3;
    other.turn = times(by, other.turn);
  }
  prop.turn = turn;
}
