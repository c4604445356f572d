/** Kernels: functions of the IR that are called rather than pasted. */
import { Builder } from './builder.js';
import type { Kernel, Node } from './types.js';

/** A kernel's name is its identity: programs are told apart by it, so no two kernels may share one. */
const defined = new Set<string>();

/** Declares a kernel; its body is built once, on first use. @throws when its name is another's */
export function defineKernel(record: Omit<Kernel, 'body'> & { build: (b: Builder, ...args: Node[]) => Node }): Kernel {
  if (defined.has(record.name)) throw new Error(`two kernels are named ${record.name}`);
  defined.add(record.name);
  let built: Node | undefined;
  const { build, ...rest } = record;
  return {
    ...rest,
    body: () => {
      if (!built) {
        const b = new Builder();
        built = build(b, ...record.params.map((p, k) => b.arg(k, p.type)));
        if (built.type !== record.result) throw new Error(`${record.name} gives ${built.type}, not ${record.result}`);
      }
      return built;
    },
  };
}
