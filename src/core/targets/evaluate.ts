/** Strand values on the CPU: one compiled module for any choice of strands and outputs of a program. */
import type { Leaf } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';
import { scalarise } from '../passes/scalarise.js';
import { WasmRunner, emitWasm, type LeafValues } from './wasm.js';
import type { Program } from '../lower/lower.js';

export interface Evaluator {
  /** @returns for each root, one array a component */
  evaluate(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][];
}

export function evaluatorOf(program: Program, roots: readonly Node[], varying: ReadonlySet<Leaf>): Evaluator {
  const paramCount = program.paramBounds.length;
  return WasmRunner.make(emitWasm(scalarise(roots), varying, paramCount));
}

export const strandRoots = (program: Program): Node[] => [...program.strands.values()].map((s) => s.value.node);
