/** Strand values on the CPU: one compiled module for any choice of strands and outputs of a program. */
import type { Picture } from '../base/picture.js';
import type { Leaf } from '../ir/leaves.js';
import type { Node } from '../ir/types.js';
import { scalarise } from '../passes/scalarise.js';
import { emitWasm } from './wasm/module.js';
import { WasmRunner, type LeafValues } from './wasm/runner.js';
import type { Program } from '../lower/lower.js';

export interface Evaluator {
  /** @returns for each root, one array a component */
  evaluate(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][];
  /** The same without a copy: valid until the next call; at most as many samples as the evaluator was made for. */
  view(params: ArrayLike<number>, leaves: LeafValues, count: number): Float32Array[][];
  /** Where a varying leaf's component is read from: numbers written here need no copy. */
  inputPlane(leaf: Leaf, lane: number): Float32Array;
}

/** @param pictures images by their `pictureKey`; it may be filled later */
export function evaluatorOf(
  program: Program,
  roots: readonly Node[],
  varying: ReadonlySet<Leaf>,
  samples?: number,
  pictures?: ReadonlyMap<string, Picture>,
): Evaluator {
  const paramCount = program.paramCount;
  return WasmRunner.make(emitWasm(scalarise(roots), varying, paramCount, samples), pictures);
}

export const strandRoots = (program: Program): Node[] => [...program.strands.values()].map((s) => s.value.node);
