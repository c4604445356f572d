/** Peek: how one value of the sheet is shown as it is, and what can be said of it in numbers. */
import { widthOf, type Node } from '../ir/types.js';
import type { Program } from '../lower/lower.js';
import type { OutputName } from '../effect/outputs.js';
import type { Port } from '../lower/lower.js';
import { emitGlsl, type GlslText } from '../targets/glsl.js';

/** `unit`: 0 to 1, stripes outside. `range`: from its lowest to its highest. `signed`: two hues away from 0. */
export const PEEK_MODES = ['unit', 'range', 'signed'] as const;
export type PeekMode = (typeof PEEK_MODES)[number];

export interface PeekLook {
  readonly mode: PeekMode;
  readonly lanes: number;
  /** A colour rather than a vector: it is encoded for the display. */
  readonly colour: boolean;
  readonly low: number;
  readonly high: number;
}

export interface PeekStats {
  /** Lowest and highest of all components; 0 and 0 where nothing of it is seen. */
  readonly low: number;
  readonly high: number;
  /** Shares of the surface seen, 0 to 1. */
  readonly below: number;
  readonly above: number;
  readonly notFinite: number;
}

/** What is peeked at: a strand by its id, or an output as `output:emission`. */
export type PeekName = string;
export const outputPeek = (name: OutputName): PeekName => `output:${name}`;

/** @returns null where the sheet has no such value */
export function peekPort(program: Program, of: PeekName): Port | null {
  if (of.startsWith('output:')) return program.outputs.get(of.slice(7) as OutputName) ?? null;
  return program.strands.get(of)?.value ?? null;
}

/** The program with nothing but a value and what moves the vertices: the value in the place of the emission. */
export function peekProgram(program: Program, port: Port): Program {
  const { builder: b } = program;
  const width = widthOf(port.node.type);
  const lane = (k: number): Node => (k < width ? b.pick(port.node, k) : b.constant(0));
  const outputs = new Map([
    ['emission', { kind: 'rgb' as const, node: b.join(lane(0), lane(1), lane(2)) }] as [OutputName, Port],
  ]);
  const displacement = program.outputs.get('displacement');
  if (displacement) outputs.set('displacement', displacement);
  return { ...program, outputs };
}

/** The shaders that write a value of the sheet in the place of the emission. @returns null where the sheet has no such value */
export function peekText(program: Program, of: PeekName): GlslText | null {
  const port = peekPort(program, of);
  return port && emitGlsl(peekProgram(program, port), { hoist: true, naming: 'ids' });
}

/**
 * @param values four numbers a place: the value's first three, then 0 no surface, 1 numbers, 2 not finite
 * @param lanes how many of the three are the value's
 */
export function peekStats(values: Float32Array, lanes: number): PeekStats {
  let [low, high] = [Infinity, -Infinity];
  let [seen, below, above, notFinite] = [0, 0, 0, 0];
  for (let k = 0; k < values.length; k += 4) {
    const state = values[k + 3]!;
    if (state < 0.5) continue;
    seen++;
    if (state > 1.5) {
      notFinite++;
      continue;
    }
    let [least, most] = [Infinity, -Infinity];
    for (let lane = 0; lane < Math.min(3, lanes); lane++) {
      least = Math.min(least, values[k + lane]!);
      most = Math.max(most, values[k + lane]!);
    }
    low = Math.min(low, least);
    high = Math.max(high, most);
    if (least < 0) below++;
    if (most > 1) above++;
  }
  const share = (n: number) => (seen > 0 ? n / seen : 0);
  const known = low <= high;
  return {
    low: known ? low : 0,
    high: known ? high : 0,
    below: share(below),
    above: share(above),
    notFinite: share(notFinite),
  };
}

/** Where more than this much of a value lies below 0 it is taken to have a sign, rather than to be a mask gone astray. */
const SIGNED_SHARE = 0.35;

/** How a value is best shown at first. @param measures it is a distance, whose 1 means nothing */
export function suitedMode({ below, low, high }: PeekStats, measures: boolean): PeekMode {
  if (below > SIGNED_SHARE) return 'signed';
  return measures && high > low ? 'range' : 'unit';
}

/** The look with the numbers of a mode; a range of no width is shown as it is. */
export function lookOf(
  mode: PeekMode,
  { low, high }: PeekStats,
  port: Pick<Port, 'kind'> & { readonly lanes: number },
): PeekLook {
  const size = Math.max(Math.abs(low), Math.abs(high), 1e-6);
  const [from, to] = mode === 'signed' ? [-size, size] : mode === 'range' && high > low ? [low, high] : [0, 1];
  return { mode, lanes: port.lanes, colour: port.kind === 'rgb', low: from, high: to };
}
