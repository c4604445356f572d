/** A program whose numbers are written in, without what they rule out. */
import { simplified } from '../passes/simplify.js';
import type { LoweredStrand, Port, Program } from './program.js';

/** @param loop in seconds; null for an effect that runs on */
export function plain(program: Program, loop: number | null): Program {
  const ports = [...program.strands.values()].flatMap((strand) => Object.values(strand.ports));
  const roots = [...ports, ...program.outputs.values()].map((port) => port.node);
  const bounds = program.paramBounds;
  const now = simplified(program.builder, roots, bounds, loop);
  const made = new Map<Port, Port>();
  const again = (port: Port): Port => {
    let found = made.get(port);
    if (!found) made.set(port, (found = { ...port, node: now.get(port.node)! }));
    return found;
  };
  const strand = (before: LoweredStrand): LoweredStrand => ({
    ...before,
    ports: Object.fromEntries(Object.entries(before.ports).map(([id, port]) => [id, again(port)])),
    value: again(before.value),
  });
  return {
    ...program,
    strands: new Map([...program.strands].map(([id, before]) => [id, strand(before)])),
    plainer: (nodes) => {
      const found = simplified(program.builder, nodes, bounds, loop);
      return nodes.map((node) => found.get(node)!);
    },
    outputs: new Map([...program.outputs].map(([name, port]) => [name, again(port)])),
  };
}
