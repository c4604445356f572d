/** Numbers from Wispen's own core: a small sheet, computed by its CPU target at any points. */
import { fromHex } from '../../src/core/base/srgb.js';
import { readEffect } from '../../src/core/effect/read.js';
import type { Strand, Value } from '../../src/core/effect/schema.js';
import { lower } from '../../src/core/lower/lower.js';
import { paramValues } from '../../src/core/lower/params.js';
import { evaluatorOf } from '../../src/core/targets/evaluate.js';

type Given = Value | { readonly from: string; readonly part?: string; readonly port?: string };

/** A strand in short: its inputs are values, or links. */
export function strand(id: string, op: string, inputs: Record<string, Given> = {}, options: Record<string, string> = {}): Strand {
  const isLinked = (v: Given): v is Extract<Given, { from: string }> => typeof v === 'object' && 'from' in v;
  const read = Object.entries(inputs).map(([name, v]) => [name, isLinked(v) ? v : { value: v }]);
  return { id, name: id, op, inputs: Object.fromEntries(read), options } as Strand;
}
export const from = (id: string, part?: string, port?: string) => ({ from: id, ...(part ? { part } : {}), ...(port ? { port } : {}) });
/** A colour by its code for the web. */
export const colour = (hex: string): Value => ({ rgb: fromHex(hex)!, intensity: 1, unit: 'factor' });

/** Points at once; more are computed one run after another. */
const RUN = 8192;

/**
 * A sheet as a function of places.
 * @param wanted the strands whose values are asked for
 * @returns for planes x, y, z in metres the planes of each of them, a component after another
 */
export function field(
  strands: readonly Strand[],
  ...wanted: string[]
): (x: Float32Array, y: Float32Array, z: Float32Array) => Float32Array[][] {
  const empty = { format: 'wispen-effect', version: 1, id: 'field', name: 'Field', kind: 'surface', loop: null, fps: 30 };
  const finish = { alphaMode: 'opaque', sides: 'front', lighting: 'lit', castsShadow: true, writesDepth: true, order: 0 };
  const lists = { tags: [], sections: [], dials: [], variants: [], cues: [], triggers: [], motifs: [], shared: [] };
  const read = readEffect({
    ...{ ...empty, ...lists, note: '', strands, outputs: {}, assets: {}, home: null, extra: {} },
    finish: { ...finish, alphaCutoff: 0.5 },
  });
  if (!read.ok) throw new Error(read.problems[0]!.message);
  const program = lower(read.effect, { build: 'live' });
  if (program.problems.length > 0) throw new Error(program.problems[0]!.message);
  const roots = wanted.map((id) => program.strands.get(id)!.value.node);
  const evaluator = evaluatorOf(program, roots, new Set(['position', 'positionDx', 'positionDy'] as const), RUN);
  const params = paramValues(program.params, read.effect);
  return (x, y, z) => {
    const whole: Float32Array[][] = [];
    for (let at = 0; at < x.length; at += RUN) {
      const [px, py, pz] = [x, y, z].map((plane) => plane.slice(at, at + RUN));
      const none = [0, 0, 0];
      const some = evaluator.evaluate(params, { position: [px!, py!, pz!], positionDx: none, positionDy: none }, px!.length);
      some.forEach((lanes, k) =>
        lanes.forEach((lane, j) => (((whole[k] ??= [])[j] ??= new Float32Array(x.length)).set(lane, at), undefined)),
      );
    }
    return whole;
  };
}

/** Numbers from 0 to 1 that are the same at every making: mulberry32, public domain. */
export function dice(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
