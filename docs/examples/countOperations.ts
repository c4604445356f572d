/**
 * An example of a target of one's own: how many of each operation an effect costs at one place of a surface.
 *
 *     node --import tsx docs/examples/countOperations.ts demo/starters/failing-tube.wispen.json
 *
 * docs/architecture.md tells the way: document -> `lower` -> `scalarise` -> whatever one wants to make of it.
 */
import { readFileSync } from 'node:fs';
import { readEffectText } from '../../src/core/effect/read.js';
import type { Effect } from '../../src/core/effect/schema.js';
import { lower } from '../../src/core/lower/lower.js';
import { scalarise, type ScalarNode } from '../../src/core/passes/scalarise.js';

export type Counts = ReadonlyMap<string, number>;

function add(counts: Map<string, number>, nodes: readonly ScalarNode[], times: number): void {
  for (const node of nodes) {
    switch (node.op) {
      // What is given costs nothing: numbers, places, arguments, and results that are there already.
      case 'const':
      case 'param':
      case 'leaf':
      case 'arg':
      case 'result':
        break;
      case 'call':
        add(counts, node.kernel!.nodes, times);
        break;
      case 'repeat':
        add(counts, node.loop!.nodes, times * node.loop!.count);
        break;
      default:
        counts.set(node.op, (counts.get(node.op) ?? 0) + times);
    }
  }
}

/** @returns how many of each, the most frequent first @throws where the sheet has an error */
export function countOperations(effect: Effect): Counts {
  const program = lower(effect, { build: 'frozen' });
  if (program.problems.length > 0) throw new Error(program.problems[0]!.message);
  const { nodes } = scalarise([...program.outputs.values()].map((port) => port.node));
  const counts = new Map<string, number>();
  add(counts, nodes, 1);
  return new Map([...counts].sort((a, b) => b[1] - a[1]));
}

const [, script, file] = process.argv;
if (script?.endsWith('countOperations.ts') && file) {
  const read = readEffectText(readFileSync(file, 'utf8'));
  if (!read.ok) throw new Error(read.problems[0]!.message);
  for (const [op, count] of countOperations(read.effect)) console.log(`${String(count).padStart(6)} ${op}`);
}
