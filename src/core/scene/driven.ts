/**
 * Lights that an effect drives, so that a tube and the lamp it stands for flicker together: what the effect, or one strand
 * of it, gives at a moment is what the light's own colour and intensity are multiplied by.
 */
import { randomOf } from '../base/random.js';
import type { Effect, Strand } from '../effect/schema.js';
import { strandsOf } from '../effect/schema.js';
import { widthOf, type Node } from '../ir/types.js';
import type { Program } from '../lower/lower.js';
import { atMostFrame, rates } from '../passes/rates.js';
import { evaluatorOf, type Evaluator } from '../targets/evaluate.js';
import type { Light } from './stage.js';

/** What a light's colour and its intensity are multiplied by, at a moment. */
export interface Drive {
  readonly rgb: readonly [number, number, number];
  readonly intensity: number;
}

export interface DrivenLight {
  readonly light: string;
  /** @param time seconds */
  at(time: number): Drive;
}

/** A light shines the same for all that it falls on: one value a frame, a number or a colour. */
function drives(node: Node): boolean {
  const width = widthOf(node.type);
  return (width === 1 || width === 3) && node.type.startsWith('f') && atMostFrame(rates([node]).get(node)!);
}

/** The strands that can drive a light, from top to bottom. */
export const driversIn = (effect: Effect, program: Program): Strand[] =>
  strandsOf(effect).filter(({ id }) => {
    const port = program.strands.get(id)?.value;
    return port !== undefined && port.neutral === undefined && drives(port.node);
  });

/** The one that is meant where nothing is said: what is named last of those that move, else the last. */
export function driverIn(effect: Effect, program: Program): Strand | null {
  const all = driversIn(effect, program);
  const moves = all.filter(({ id }) => {
    const { node } = program.strands.get(id)!.value;
    return rates([node]).get(node) === 'frame';
  });
  return moves.at(-1) ?? all.at(-1) ?? null;
}

/** What drives: a strand alone, or colour and intensity of an effect of kind light. */
function rootsOf(program: Program, strand: string | null): { colour: Node | null; intensity: Node | null } | null {
  if (strand === null) {
    const of = (name: 'colour' | 'intensity') => program.outputs.get(name)?.node ?? null;
    const roots = { colour: of('colour'), intensity: of('intensity') };
    return roots.colour || roots.intensity ? roots : null;
  }
  const port = program.strands.get(strand)?.value;
  if (!port || port.neutral || !drives(port.node)) return null;
  return widthOf(port.node.type) === 1 ? { colour: null, intensity: port.node } : { colour: port.node, intensity: null };
}

interface Made {
  readonly evaluator: Evaluator;
  readonly colours: boolean;
  readonly levels: boolean;
}
const made = new WeakMap<Program, Map<string | null, Made | null>>();

function madeOf(program: Program, strand: string | null): Made | null {
  let known = made.get(program);
  if (!known) made.set(program, (known = new Map()));
  const found = known.get(strand);
  if (found !== undefined) return found;
  const roots = rootsOf(program, strand);
  const nodes = [roots?.colour, roots?.intensity].filter((node): node is Node => node !== null && node !== undefined);
  const fresh = roots && {
    evaluator: evaluatorOf(program, nodes, new Set(), 1),
    ...{ colours: roots.colour !== null, levels: roots.intensity !== null },
  };
  known.set(strand, fresh);
  return fresh;
}

/** No light is less than none, and what is no number is none. */
const held = (v: number): number => (v > 0 && v < Infinity ? v : 0);

/**
 * @param shown the effect in the light's variant, and its numbers
 * @returns null where nothing of it can drive a light: it shines as it is
 */
export function drivenLight(light: Light, shown: Effect, program: Program, params: Float32Array): DrivenLight | null {
  const by = light.drivenBy;
  const found = by && madeOf(program, by.strand);
  if (!by || !found) return null;
  const own = { propRandom: [randomOf(by.seed ?? 0)], loop: [shown.loop ?? 0] };
  return {
    light: light.id,
    at: (time) => {
      const [first, second] = found.evaluator.view(params, { ...own, time: [time] }, 1);
      const level = found.colours ? second : first;
      return {
        rgb: found.colours ? [held(first![0]![0]!), held(first![1]![0]!), held(first![2]![0]!)] : [1, 1, 1],
        intensity: (found.levels ? held(level![0]![0]!) : 1) * by.scale,
      };
    },
  };
}
