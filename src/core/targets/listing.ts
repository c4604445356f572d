/** The scalar program as text, one operation a line: for people who want to see what is computed. */
import type { ScalarNode, ScalarProgram } from '../passes/scalarise.js';

export function listing(program: ScalarProgram, names: readonly string[]): string {
  const number = new Map(program.nodes.map((node, k) => [node, k]));
  const ref = (node: ScalarNode) => (node.op === 'const' ? String(node.value) : `%${number.get(node)}`);
  const lines = program.nodes.flatMap((node, k) => {
    switch (node.op) {
      case 'const':
        return [];
      case 'leaf':
        return [`%${k} = ${node.leaf!}.${'xyzw'[node.lane!]}`];
      case 'param':
        return [`%${k} = number ${node.index!}`];
      case 'call':
        return [`%${k} = ${node.kernel!.name}(${node.args.map(ref).join(', ')})`];
      case 'result':
        return [`%${k} = ${ref(node.args[0]!)}[${node.index!}]`];
      case 'repeat':
        return [`%${k} = repeat ${node.loop!.count} (${node.args.map(ref).join(', ')})`];
      case 'keys':
        return [`%${k} = keys ${node.table!.at} x${node.table!.count} (${node.args.map(ref).join(', ')})`];
      default:
        return [`%${k} = ${node.op} ${node.args.map(ref).join(', ')}`];
    }
  });
  program.roots.forEach((root, k) => lines.push(`${names[k]!} = ${root.map(ref).join(', ')}`));
  return `${lines.join('\n')}\n`;
}
