/** `wispen eval`: every strand's numbers at given points. */
import { z } from 'zod';
import { whatIsUnwholesome } from '../core/base/wholesome.js';
import { withVariant } from '../core/effect/variant.js';
import { LEAVES, LEAF_NAMES, type Leaf } from '../core/ir/leaves.js';
import { widthOf } from '../core/ir/types.js';
import { evaluatorOf } from '../core/targets/evaluate.js';
import { lower } from '../core/lower/lower.js';
import { paramValues } from '../core/lower/params.js';
import { BadInput, effectFrom, readText, variantNamed } from './input.js';

/** Names of points that stand for several places of ours. */
const SAME: Readonly<Record<string, readonly Leaf[]>> = {
  depthGap: ['depthGap', 'depthGapRay', 'depthGapDown'],
  edgeDistance: ['edgePixels', 'edgeMetres', 'edgePixelsQuad', 'edgeMetresQuad'],
  age: ['moteAge'],
};
const NAMED: Partial<Record<Leaf, string>> = Object.fromEntries(
  Object.entries(SAME).flatMap(([name, leaves]) => leaves.map((l) => [l, name])),
);
const MAX_POINTS_BYTES = 64 * 1024 * 1024;
const components = z.union([z.number(), z.array(z.number()).min(1).max(4)]);
const pointsSchema = z.array(z.record(z.string(), components));

/** A point that gives `position` stands on an unmoved prop: what it does not say of the world follows. */
const STANDS_FOR: Partial<Record<Leaf, Leaf>> = {
  worldPosition: 'position',
  objectNormal: 'normal',
  viewNormal: 'normal',
  position: 'worldPosition',
};

export function evalPoints(file: string, pointsFile: string, wanted: readonly string[], variantName: string | null): number {
  const base = effectFrom(file);
  const effect = withVariant(base, variantName === null ? null : variantNamed(file, base, variantName));
  let parsed: unknown;
  try {
    parsed = JSON.parse(readText(pointsFile, MAX_POINTS_BYTES));
  } catch (error) {
    if (error instanceof BadInput) throw error;
    throw new BadInput(`${pointsFile} is not JSON: ${(error as Error).message}.`);
  }
  const unwholesome = whatIsUnwholesome(parsed);
  if (unwholesome) throw new BadInput(`${pointsFile} cannot be read: ${unwholesome}`);
  const checked = pointsSchema.safeParse(parsed);
  if (!checked.success)
    throw new BadInput(
      `${pointsFile} must be a list of points, each an object of numbers: ${checked.error.issues[0]!.path.join('.')} is not.`,
    );
  const points = checked.data;
  for (const [k, point] of points.entries())
    for (const [name, value] of Object.entries(point)) {
      const [leaf] = SAME[name] ?? [name as Leaf];
      if (!(LEAF_NAMES as string[]).includes(leaf!))
        throw new BadInput(`${pointsFile}: point ${k + 1} has a place "${name}", which is not known.`);
      const width = widthOf(LEAVES[leaf!].type);
      if ((Array.isArray(value) ? value.length : 1) !== width)
        throw new BadInput(`${pointsFile}: point ${k + 1}: ${name} takes ${width} numbers.`);
    }
  const program = lower(effect, { build: 'live' });
  const [problem] = program.problems;
  if (problem) throw new BadInput(`${file}: ${problem.message}`);
  const ids = wanted.length > 0 ? wanted : [...program.strands.keys()];
  for (const id of ids) if (!program.strands.has(id)) throw new BadInput(`${file}: there is no strand ${id}.`);
  const loop = effect.loop;
  /** What a float loses of a number. */
  const lostOf = (time: unknown): number => {
    const given = Number(Array.isArray(time) ? time[0] : (time ?? 0));
    return given - Math.fround(given);
  };
  const planes = (leaf: Leaf): Float32Array[] => {
    const { type, fallback } = LEAVES[leaf];
    const rows = points.map((point) => {
      const given = point[leaf] ?? point[NAMED[leaf] ?? ''] ?? (STANDS_FOR[leaf] ? point[STANDS_FOR[leaf]] : undefined);
      const list = given === undefined ? (leaf === 'loop' ? [loop ?? 0] : fallback) : Array.isArray(given) ? given : [given];
      if (leaf !== 'time' || loop === null) return list;
      return [list[0]! - loop * Math.floor(list[0]! / loop)];
    });
    // What a float has not of the time is a place of its own.
    if (leaf === 'timeRest') return [Float32Array.from(rows, (r, k) => r[0]! + (loop === null ? lostOf(points[k]!.time) : 0))];
    return Array.from({ length: widthOf(type) }, (_, lane) => Float32Array.from(rows, (r) => r[lane]!));
  };
  const leaves = Object.fromEntries(LEAF_NAMES.map((leaf) => [leaf, planes(leaf)]));
  const evaluator = evaluatorOf(
    program,
    ids.map((id) => program.strands.get(id)!.value.node),
    new Set(LEAF_NAMES),
  );
  const results = evaluator.evaluate(paramValues(program.params, effect), leaves, points.length);
  // Values that are not finite print as null.
  const rows = points.map((_, p) => Object.fromEntries(ids.map((id, k) => [id, results[k]!.map((lane) => lane[p]!)])));
  console.log(JSON.stringify(rows));
  return 0;
}
