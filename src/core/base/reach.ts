/**
 * Everything that can be reached, each once; deep graphs are no depth of calls.
 * @param next what a node leads to; asked once a node
 * @param seen what has been reached before: it is passed by, with all behind it, and what is found is added
 * @returns what was found now, in no order that means anything
 */
export function reach<T>(roots: Iterable<T>, next: (node: T) => readonly T[], seen = new Set<T>()): T[] {
  const pending = [...roots];
  const found: T[] = [];
  while (pending.length > 0) {
    const node = pending.pop()!;
    if (seen.has(node)) continue;
    seen.add(node);
    found.push(node);
    for (const after of next(node)) pending.push(after);
  }
  return found;
}

/**
 * Something of every node under the roots, made of what its arguments have; deep graphs are no depth of calls.
 * @param of a node and what was found of its arguments
 * @param known what was found before: it is added to, and nothing in it is asked again
 */
export function folded<N extends { readonly args: readonly N[] }, T>(
  roots: Iterable<N>,
  of: (node: N, args: readonly T[]) => T,
  known = new Map<N, T>(),
): Map<N, T> {
  const pending = [...roots];
  while (pending.length > 0) {
    const node = pending[pending.length - 1]!;
    if (known.has(node)) {
      pending.pop();
      continue;
    }
    const { args } = node;
    const before = pending.length;
    for (let k = 0; k < args.length; k++) if (!known.has(args[k]!)) pending.push(args[k]!);
    if (pending.length > before) continue;
    pending.pop();
    known.set(
      node,
      of(
        node,
        args.map((a) => known.get(a)!),
      ),
    );
  }
  return known;
}
